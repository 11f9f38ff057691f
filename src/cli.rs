//! The command line.

use clap::{Parser, Subcommand, ValueEnum};
use std::net::SocketAddr;
use std::path::PathBuf;

/// Choose a traction battery: which pack gets you home, what it weighs, what an outing costs.
#[derive(Debug, Parser)]
#[command(version, about)]
pub(crate) struct Cli {
    #[command(subcommand)]
    pub(crate) command: Command,
}

/// Where the pages are served unless told otherwise: this machine only.
const USUAL_ADDRESS: &str = "127.0.0.1:8640";

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Start with the Heron Pond example in a temporary folder; nothing is kept.
    Demo {
        /// Address to serve on; port 0 picks a free one.
        #[arg(long, default_value = USUAL_ADDRESS)]
        listen: SocketAddr,
    },
    /// Start with your own data.
    Serve {
        /// The database file; by default one in your data folder.
        #[arg(long)]
        db: Option<PathBuf>,
        /// Address to serve on; port 0 picks a free one.
        #[arg(long, default_value = USUAL_ADDRESS)]
        listen: SocketAddr,
    },
    /// Work out a plan file without a server.
    Evaluate {
        /// The plan, or - for standard input.
        file: PathBuf,
        /// How the result is written.
        #[arg(long, value_enum, default_value_t = Format::Json)]
        format: Format,
        /// Show the working of every figure (JSON only).
        #[arg(long)]
        working: bool,
    },
    /// Print what ships inside the program, by whom and under which licence.
    Licenses,
    /// Print the JSON Schema of a format.
    Schema {
        /// Which format.
        #[arg(value_enum)]
        of: Schema,
    },
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum Format {
    Json,
    Csv,
    Text,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum Schema {
    Plan,
    Result,
    Shelf,
    Tipping,
    Proposals,
    Shared,
}
