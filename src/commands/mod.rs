//! What each command does.

pub(crate) mod copies;
pub(crate) mod evaluate;
mod season;
pub(crate) mod serve;
pub(crate) mod stand_in;

use crate::cli;
use clap::CommandFactory;
use lake_hour_formats::{Faults, schema};
use std::io::Write;

/// Why a command did not do what it was asked.
#[derive(Debug)]
pub(crate) enum Failed {
    /// The input was bad: one line for each fault.
    Input(Vec<String>),
    /// Something outside failed.
    Run(anyhow::Error),
}

impl From<Faults> for Failed {
    fn from(faults: Faults) -> Self {
        Self::Input(faults.0.iter().map(ToString::to_string).collect())
    }
}

impl From<anyhow::Error> for Failed {
    fn from(error: anyhow::Error) -> Self {
        Self::Run(error)
    }
}

/// Prints the JSON Schema of a format.
pub(crate) fn schema(of: cli::Schema) -> Result<(), Failed> {
    print(&match of {
        cli::Schema::Plan => schema::plan(),
        cli::Schema::Result => schema::result(),
        cli::Schema::Shelf => schema::shelf(),
        cli::Schema::Tipping => schema::tipping(),
        cli::Schema::Proposals => schema::proposals(),
        cli::Schema::Shared => schema::shared(),
        cli::Schema::Log => schema::log(),
    })
}

/// Prints completions for a shell.
pub(crate) fn completions(shell: clap_complete::Shell) -> Result<(), Failed> {
    let mut text = Vec::new();
    clap_complete::generate(shell, &mut cli::Cli::command(), "lake-hour", &mut text);
    print(&String::from_utf8_lossy(&text))
}

/// Prints the manual page.
pub(crate) fn man() -> Result<(), Failed> {
    let mut text = Vec::new();
    let page = clap_mangen::Man::new(cli::Cli::command());
    page.render(&mut text).map_err(|e| Failed::Run(anyhow::Error::new(e)))?;
    print(&String::from_utf8_lossy(&text))
}

/// Writes to standard output; a reader that went away (`| head`) is no failure.
pub(crate) fn print(text: &str) -> Result<(), Failed> {
    let mut out = std::io::stdout().lock();
    match out.write_all(text.as_bytes()).and_then(|()| out.flush()) {
        Err(e) if e.kind() != std::io::ErrorKind::BrokenPipe => {
            Err(Failed::Run(anyhow::Error::new(e).context("cannot write to standard output")))
        }
        _ => Ok(()),
    }
}

/// Writes a line to standard error; if even that fails there is nobody left to tell.
pub(crate) fn complain(line: &str) {
    let _ = writeln!(std::io::stderr(), "{line}");
}
