//! The program: command line and wiring.

mod bench;
mod bench_bent;
mod bench_chain;
mod bench_flow;
mod bench_shots;
mod bench_space;
mod bench_time;
mod error;
mod files;
mod out;
mod render;
mod serve;
mod timed;
mod vary;

use crate::out::mention;
use std::process::ExitCode;

use clap::{Parser, Subcommand};

use error::ProgramError;
use mimalloc::MiMalloc;

/// Blocks of files are read by one thread and let go by another, again and again: memory that goes back to the system each
/// time costs a tenth of a frame.
#[global_allocator]
static MEMORY: MiMalloc = MiMalloc;

/// Effects on live-action plates: in the browser, or straight from files to files.
#[derive(Parser)]
#[command(name = "brazen-veil", version, about)]
struct Arguments {
    #[command(subcommand)]
    task: Task,
}

#[derive(Subcommand)]
enum Task {
    /// Make the demo show where it is missing, then serve.
    Demo(serve::ServeArguments),
    /// Serve the interface.
    Serve(serve::ServeArguments),
    /// Render frames to files.
    Render(render::RenderArguments),
    /// Say what a file or sequence holds, as JSON.
    Inspect {
        /// A file, or a sequence as name.####.exr.
        file: std::path::PathBuf,
    },
    /// Check a setup or a tool.
    Check {
        /// Its file.
        file: std::path::PathBuf,
    },
    /// List the stages.
    Stages {
        /// As JSON, with controls, units and ranges.
        #[arg(long, conflicts_with = "page")]
        json: bool,
        /// As the page of the documents.
        #[arg(long)]
        page: bool,
    },
    /// Print the JSON Schema of setup files or of tool files.
    Schema {
        /// Of tool files.
        #[arg(long)]
        tool: bool,
    },
    /// Copy the database of a data folder, also while it is being served.
    Backup {
        /// The data folder.
        #[arg(long, default_value = "data")]
        data: std::path::PathBuf,
        /// The file to write, which must not be there.
        #[arg(long)]
        to: std::path::PathBuf,
    },
    /// Measure kernels and whole setups at 1920x1080.
    Bench(bench::BenchArguments),
}

fn main() -> ExitCode {
    tracing_subscriber::fmt().with_target(false).with_writer(std::io::stderr).init();
    let done = match Arguments::parse().task {
        Task::Demo(arguments) => serve::serve(&arguments, serve::Show::Demo),
        Task::Serve(arguments) => serve::serve(&arguments, serve::Show::Own),
        Task::Render(arguments) => render::render(&arguments),
        Task::Inspect { file } => files::inspect(&file),
        Task::Check { file } => files::check(&file),
        Task::Stages { page: true, .. } => files::stages_page(),
        Task::Stages { json, page: false } => files::stages(json),
        Task::Schema { tool } => files::schema(tool),
        Task::Backup { data, to } => files::backup(&data, &to),
        Task::Bench(arguments) => bench::bench(&arguments),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            mention!("brazen-veil: {error}");
            ExitCode::FAILURE
        }
    }
}

/// Every task gives nothing or an error to print.
type Done = Result<(), ProgramError>;
