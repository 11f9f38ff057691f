//! The command line.

use clap::{Parser, Subcommand, ValueEnum};
use std::net::SocketAddr;
use std::path::PathBuf;

/// Choose a traction battery: which pack gets you home, what it weighs, what an outing costs.
///
/// Lake Hour listens on this machine only and asks no network for anything.
///
/// It estimates: local codes, the makers' manuals and licensed practice come first.
#[derive(Debug, Parser)]
#[command(
    name = "lake-hour",
    version,
    after_help = "First time: lake-hour demo. Your own data: lake-hour serve --open."
)]
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
        /// Open the pages in your browser.
        #[arg(long)]
        open: bool,
        /// Listen in your own network too, for phones that you let in by a code.
        #[arg(long)]
        share: bool,
        /// Address of the network to listen on; by default this machine's own, port 8643.
        #[arg(long, requires = "share")]
        share_on: Option<SocketAddr>,
        /// Without encryption: whoever is in the network can read along.
        #[arg(long, requires = "share")]
        plain: bool,
    },
    /// Save all of your data to one file, also while Lake Hour runs.
    Backup {
        /// The database file; by default the one in your data folder.
        #[arg(long)]
        db: Option<PathBuf>,
        /// The file to save to, as in lake-hour-backup.db.
        to: PathBuf,
    },
    /// Put a saved backup in the place of your data; what stood there is kept beside it.
    Restore {
        /// The database file; by default the one in your data folder.
        #[arg(long)]
        db: Option<PathBuf>,
        /// The file that backup has saved.
        from: PathBuf,
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
    /// Play a rig's day as a Signal K server on this machine, with a truth that differs from the plan.
    StandIn {
        /// The plan whose day is played, with its first pack; the Heron Pond skiff where none is named.
        #[arg(long)]
        plan: Option<PathBuf>,
        /// How many times as fast as the clock.
        #[arg(long, default_value_t = 60.0)]
        speed: f64,
        /// Wear, wind and noise are drawn of this number: the same day for the same number.
        #[arg(long, default_value_t = 7)]
        seed: u64,
        /// A file for what is true, one JSON object a line.
        #[arg(long)]
        truth: Option<PathBuf>,
        /// Address to stream on, of this machine only; port 0 picks a free one.
        #[arg(long, default_value = "127.0.0.1:3000")]
        listen: SocketAddr,
    },
    /// Print what ships inside the program, by whom and under which licence.
    Licenses,
    /// Print completions for a shell.
    ///
    /// As in: lake-hour completions bash > ~/.local/share/bash-completion/completions/lake-hour
    Completions {
        /// Which shell.
        #[arg(value_enum)]
        shell: clap_complete::Shell,
    },
    /// Print the manual page.
    ///
    /// As in: lake-hour man > ~/.local/share/man/man1/lake-hour.1
    Man,
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
    Log,
}
