//! The built program, started and stopped.

use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Output, Stdio};

/// A running server; stopped when dropped.
pub(crate) struct Program {
    child: Child,
    /// `http://127.0.0.1:PORT`.
    pub(crate) address: String,
}

pub(crate) fn command() -> Command {
    Command::new(env!("CARGO_BIN_EXE_lake-hour"))
}

/// Runs the program to its end with `input` on its standard input.
pub(crate) fn run(arguments: &[&str], input: &[u8]) -> Output {
    use std::io::Write;
    let mut child = command()
        .args(arguments)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    // A program that refuses its command line does not read on: that is no failure here.
    let _ = child.stdin.take().unwrap().write_all(input);
    child.wait_with_output().unwrap()
}

impl Program {
    pub(crate) fn demo() -> Self {
        Self::start(&["demo", "--listen", "127.0.0.1:0"])
    }

    pub(crate) fn serve(db: &Path) -> Self {
        Self::start(&["serve", "--listen", "127.0.0.1:0", "--db", db.to_str().unwrap()])
    }

    fn start(arguments: &[&str]) -> Self {
        let mut child =
            command().args(arguments).stdout(Stdio::piped()).stderr(Stdio::null()).spawn().unwrap();
        let mut line = String::new();
        BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
        let address = line
            .trim()
            .strip_prefix("Lake Hour is ready at ")
            .and_then(|a| a.strip_suffix('/'))
            .unwrap_or_else(|| panic!("it printed {line:?}"));
        Self { address: address.to_owned(), child }
    }

    /// Memory it holds, as Linux tells it; zero elsewhere. [MB]
    pub(crate) fn memory_mb(&self) -> u64 {
        let status = std::fs::read_to_string(format!("/proc/{}/status", self.child.id()));
        let resident = status.ok().and_then(|s| {
            let line = s.lines().find(|l| l.starts_with("VmRSS:"))?.to_owned();
            line.split_whitespace().nth(1)?.parse::<u64>().ok()
        });
        resident.unwrap_or(0) / 1024
    }

    /// Ends it as a crash would: nothing is flushed or closed.
    pub(crate) fn kill(mut self) {
        self.child.kill().unwrap();
        self.child.wait().unwrap();
    }
}

impl Drop for Program {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
