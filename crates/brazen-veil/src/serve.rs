//! `demo` and `serve`.

use std::net::SocketAddr;
use std::path::PathBuf;
use std::time::Duration;

use clap::Args;
use veil_server::{App, Door};

use crate::Done;
use crate::error::ProgramError;
use crate::out::say;

#[derive(Args)]
pub(crate) struct ServeArguments {
    /// The data folder.
    #[arg(long, default_value = "data")]
    data: PathBuf,
    /// Address and port to listen on; port 0 takes a free one.
    #[arg(long, default_value = "127.0.0.1:7474")]
    listen: SocketAddr,
    /// Listen beyond this machine, though whoever reaches the server can see, change and remove everything: it knows no
    /// accounts.
    #[arg(long)]
    i_know_it_is_open: bool,
    /// Another name that this server is reached by; may be given more than once.
    #[arg(long = "host")]
    hosts: Vec<String>,
    /// A folder elsewhere that footage may be used from in place; may be given more than once.
    #[arg(long)]
    media: Vec<PathBuf>,
    /// Most memory for held pictures, in megabytes.
    #[arg(long, default_value_t = 2048)]
    cache: u64,
    /// Largest file that is taken in, in megabytes.
    #[arg(long, default_value_t = 65_536)]
    largest_file: u64,
    /// With demo: only the first frames of each shot, for a quick look.
    #[arg(long)]
    first: Option<usize>,
    /// With demo: make the show and end, without serving it.
    #[arg(long)]
    make_only: bool,
}

/// How long work under way may take to notice that the program ends.
const LAST_WORK: Duration = Duration::from_secs(3);

/// Whose show is served.
#[derive(Clone, Copy, PartialEq)]
pub(crate) enum Show {
    Demo,
    Own,
}

pub(crate) fn serve(arguments: &ServeArguments, show: Show) -> Done {
    if !arguments.listen.ip().is_loopback() && !arguments.i_know_it_is_open {
        let listen = arguments.listen;
        return Err(ProgramError::Bad(format!(
            "{listen} can be reached from other machines, and this server knows no accounts: whoever reaches it can see, change and remove everything; --i-know-it-is-open listens there all the same"
        )));
    }
    let runtime = tokio::runtime::Runtime::new().map_err(|error| ProgramError::Bad(error.to_string()))?;
    let app = App::new(&arguments.data, arguments.cache << 20, &arguments.media)?;
    if show == Show::Demo {
        let made = app.make_demo(arguments.first)?;
        if arguments.make_only {
            return made.join().map_err(|_| ProgramError::Bad("the demo show could not be made".into()));
        }
    }
    let ready = |address| say!("Brazen Veil is at http://{address}/");
    let door = Door {
        listen: arguments.listen,
        names: arguments.hosts.clone(),
        largest_file: arguments.largest_file << 20,
    };
    let served = runtime.block_on(veil_server::serve(app, &door, ready, stopped()));
    // What still runs was told to stop; what a disk or another program holds up is left behind.
    runtime.shutdown_timeout(LAST_WORK);
    Ok(served?)
}

/// Done when the program is asked to end.
async fn stopped() {
    let interrupted = tokio::signal::ctrl_c();
    #[cfg(unix)]
    if let Ok(mut ended) = tokio::signal::unix::signal(tokio::signal::unix::SignalKind::terminate()) {
        tokio::select! {
            _ = interrupted => {}
            _ = ended.recv() => {}
        }
        return;
    }
    // Without a way to be asked, the program runs until it is ended from outside.
    if interrupted.await.is_err() {
        std::future::pending::<()>().await;
    }
}
