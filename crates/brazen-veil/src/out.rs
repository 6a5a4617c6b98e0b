//! Lines for people and for pipes.

use std::fmt::Arguments;
use std::io::{ErrorKind, Write};

/// Writes to standard output. Whoever reads may stop when it has enough, as `head` does: that is no fault, and what is
/// being made goes on. Where a file takes no more, the program ends.
pub(crate) fn write_out(text: Arguments<'_>) {
    let mut out = std::io::stdout().lock();
    let done = out.write_fmt(text).and_then(|()| out.flush());
    if done.is_err_and(|error| error.kind() != ErrorKind::BrokenPipe) {
        std::process::exit(1);
    }
}

/// Writes to standard error, where somebody still reads it.
pub(crate) fn write_aside(text: Arguments<'_>) {
    let _ = std::io::stderr().lock().write_fmt(text);
}

/// A line of what was asked for.
macro_rules! say {
    ($($text:tt)*) => { $crate::out::write_out(format_args!("{}\n", format_args!($($text)*))) };
}

/// A line beside it.
macro_rules! mention {
    ($($text:tt)*) => { $crate::out::write_aside(format_args!("{}\n", format_args!($($text)*))) };
}

pub(crate) use {mention, say};
