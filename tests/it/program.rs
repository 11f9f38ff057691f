//! The built program, started and stopped.

use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Child, Command, ExitStatus, Output, Stdio};
use std::time::{Duration, Instant};

/// An answer, whole.
#[derive(Debug)]
pub(crate) struct Answer {
    pub(crate) status: u16,
    pub(crate) head: String,
    pub(crate) body: Vec<u8>,
}

impl Answer {
    /// Reads it as a client does: an answer that was cut short is a fault.
    fn of(all: &[u8]) -> Self {
        let at = all.windows(4).position(|w| w == b"\r\n\r\n").expect("a head") + 4;
        let head = String::from_utf8(all[..at].to_vec()).unwrap().to_lowercase();
        let status = head.split(' ').nth(1).unwrap().parse().unwrap();
        let mut rest = &all[at..];
        let mut body = Vec::new();
        if head.contains("transfer-encoding: chunked") {
            loop {
                let end = rest.windows(2).position(|w| w == b"\r\n").expect("it was cut short");
                let size = usize::from_str_radix(std::str::from_utf8(&rest[..end]).unwrap(), 16);
                let (size, from) = (size.unwrap(), end + 2);
                if size == 0 {
                    break;
                }
                assert!(rest.len() >= from + size + 2, "it was cut short");
                body.extend(&rest[from..from + size]);
                rest = &rest[from + size + 2..];
            }
        } else {
            body.extend(rest);
        }
        if let Some(length) = head.split("content-length: ").nth(1) {
            let length: usize = length.split('\r').next().unwrap().parse().unwrap();
            assert_eq!(body.len(), length, "it was cut short");
        }
        Self { status, head, body }
    }

    /// The body as text, taken out of its compression.
    pub(crate) fn text(&self) -> String {
        let mut bytes = Vec::new();
        if self.head.contains("content-encoding: gzip") {
            flate2::read::GzDecoder::new(&self.body[..]).read_to_end(&mut bytes).unwrap();
        } else if self.head.contains("content-encoding: br") {
            brotli_decompressor::Decompressor::new(&self.body[..], 4096)
                .read_to_end(&mut bytes)
                .unwrap();
        } else {
            bytes.clone_from(&self.body);
        }
        String::from_utf8_lossy(&bytes).into_owned()
    }

    /// Where it leads to.
    pub(crate) fn leads_to(&self) -> String {
        self.head
            .split("location: ")
            .nth(1)
            .expect("a way on")
            .split('\r')
            .next()
            .unwrap()
            .to_owned()
    }
}

/// A running server; stopped when dropped.
pub(crate) struct Program {
    child: Child,
    /// `http://127.0.0.1:PORT`.
    pub(crate) address: String,
}

/// Something else of the program that runs until it is stopped, and the line that it printed.
pub(crate) struct Server {
    child: Child,
    pub(crate) line: String,
}

impl Server {
    pub(crate) fn stand_in(arguments: &[&str]) -> Self {
        let mut child = command()
            .arg("stand-in")
            .args(arguments)
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let mut line = String::new();
        BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
        assert!(line.starts_with("ws://127.0.0.1:"), "it printed {line:?}");
        Self { child, line: line.trim().to_owned() }
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

pub(crate) fn command() -> Command {
    Command::new(env!("CARGO_BIN_EXE_lake-hour"))
}

/// Runs the program to its end with `input` on its standard input.
pub(crate) fn run(arguments: &[&str], input: &[u8]) -> Output {
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

    pub(crate) fn start(arguments: &[&str]) -> Self {
        Self::begin(command().args(arguments))
    }

    /// With a file system on which no file may be larger than so many kilobytes, as one that is full.
    #[cfg(unix)]
    pub(crate) fn serve_within(db: &Path, kilobytes: u32) -> Self {
        let script = format!("trap '' XFSZ; ulimit -f {}; exec \"$0\" \"$@\"", 2 * kilobytes);
        let program = command();
        let mut shell = std::process::Command::new("sh");
        shell.arg("-c").arg(script).arg(program.get_program());
        Self::begin(shell.args(["serve", "--listen", "127.0.0.1:0", "--db", db.to_str().unwrap()]))
    }

    fn begin(command: &mut std::process::Command) -> Self {
        let mut child = command.stdout(Stdio::piped()).stderr(Stdio::null()).spawn().unwrap();
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

    /// What it answers to one request, to the last byte.
    pub(crate) fn ask(&self, method: &str, path: &str, headers: &str, body: &[u8]) -> Answer {
        let mut stream = self.connect();
        let host = self.host();
        let length = if body.is_empty() {
            String::new()
        } else {
            format!("Content-Length: {}\r\n", body.len())
        };
        write!(
            stream,
            "{method} {path} HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n{headers}{length}\r\n"
        )
        .unwrap();
        stream.write_all(body).unwrap();
        let mut all = Vec::new();
        stream.read_to_end(&mut all).unwrap();
        Answer::of(&all)
    }

    pub(crate) fn get(&self, path: &str) -> Answer {
        self.ask("GET", path, "", b"")
    }

    /// Sends a form as its page would.
    pub(crate) fn post(&self, path: &str, form: &str) -> Answer {
        let headers = format!(
            "Origin: {}\r\nContent-Type: application/x-www-form-urlencoded\r\n",
            self.address
        );
        self.ask("POST", path, &headers, form.as_bytes())
    }

    /// Sends a file as a browser does.
    pub(crate) fn send_file(&self, path: &str, name: &str, file: &[u8]) -> Answer {
        let headers = format!(
            "Origin: {}\r\nContent-Type: multipart/form-data; boundary=lake\r\n",
            self.address
        );
        let begin = format!(
            "--lake\r\nContent-Disposition: form-data; name=\"file\"; filename=\"{name}\"\r\n\r\n"
        );
        let body = [begin.as_bytes(), file, b"\r\n--lake--\r\n"].concat();
        self.ask("POST", path, &headers, &body)
    }

    pub(crate) fn host(&self) -> &str {
        self.address.trim_start_matches("http://")
    }

    /// A connection on which nothing is asked yet.
    pub(crate) fn connect(&self) -> TcpStream {
        let stream = TcpStream::connect(self.host()).unwrap();
        stream.set_read_timeout(Some(Duration::from_secs(60))).unwrap();
        stream
    }

    /// Sends it a signal, as a terminal or a service manager does.
    pub(crate) fn signal(&self, signal: &str) {
        let sent = Command::new("kill").arg(signal).arg(self.child.id().to_string()).status();
        assert!(sent.unwrap().success());
    }

    /// Waits until it has ended by itself; `None` when it does not within this time.
    pub(crate) fn ends_within(&mut self, longest: Duration) -> Option<ExitStatus> {
        let until = Instant::now() + longest;
        while Instant::now() < until {
            if let Some(status) = self.child.try_wait().unwrap() {
                return Some(status);
            }
            std::thread::sleep(Duration::from_millis(20));
        }
        None
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
