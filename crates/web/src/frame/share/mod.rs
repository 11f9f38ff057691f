//! On the phone at the ramp: a second listener in one's own network, for devices that typed a code and were then let in at the
//! machine. Whoever was not is told nothing, not even whose door it is, and holds no connection for long.

mod code;
mod crowd;
mod door;
mod may;
mod tls;
mod waiting;

pub(crate) use crowd::{Crowd, Guest};
pub(crate) use door::{LONGEST_NAME, NotByRole};
pub use tls::{Certificate, own_address, own_name};
pub(crate) use waiting::Waiting;

use super::App;
use super::guard::Called;
use axum::Router;
use code::Code;
use ring::digest;
use std::net::{IpAddr, SocketAddr};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Instant;
use tokio::sync::watch;
use waiting::Line;

/// The second listener.
#[derive(Debug)]
pub(crate) struct Share {
    /// Where it listens, and by what it is encrypted there.
    at: watch::Receiver<At>,
    /// What this machine is called in its network, where that is known: it stays when the address changes.
    name: Option<String>,
    began: Instant,
    code: Mutex<Code>,
    line: Mutex<Line>,
    news: watch::Sender<u64>,
}

/// Where a second listener is at a moment.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct At {
    pub(crate) address: SocketAddr,
    /// SHA-256 of its certificate; `None` where it speaks plainly.
    pub(crate) fingerprint: Option<String>,
}

/// What a device shows, as its SHA-256: it stands in a request that comes by the second listener.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Seat(pub(crate) [u8; 32]);

/// Who comes by the second listener.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Peer(pub(crate) IpAddr);

/// Seconds since 1970.
pub(crate) fn now() -> i64 {
    jiff::Timestamp::now().as_second()
}

pub(crate) fn sha256(bytes: &[u8]) -> [u8; 32] {
    let mut sum = [0; 32];
    sum.copy_from_slice(digest::digest(&digest::SHA256, bytes).as_ref());
    sum
}

fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|b| format!("{b:02x}")).collect()
}

impl Share {
    pub(crate) fn new(at: watch::Receiver<At>, name: Option<String>) -> Self {
        let code = Mutex::new(Code::new(0));
        let (news, line) = (watch::Sender::new(0), Mutex::default());
        Self { at, name, began: Instant::now(), code, line, news }
    }

    /// Where it is now.
    pub(crate) fn at(&self) -> At {
        self.at.borrow().clone()
    }

    fn is_secure(&self) -> bool {
        self.at.borrow().fingerprint.is_some()
    }

    fn scheme(&self) -> &'static str {
        if self.is_secure() { "https" } else { "http" }
    }

    /// What browsers call it.
    pub(crate) fn called(&self) -> Called {
        let (at, secure) = (self.at.clone(), self.is_secure());
        let scheme = if secure { "https" } else { "http" };
        Called::moving(move || at.borrow().address, self.name.clone(), scheme)
    }

    /// What is typed at the other end.
    pub(crate) fn address_words(&self) -> String {
        format!("{}://{}", self.scheme(), self.at.borrow().address)
    }

    /// The same by name, where there is one.
    pub(crate) fn name_words(&self) -> Option<String> {
        let port = self.at.borrow().address.port();
        self.name.as_ref().map(|name| format!("{}://{name}:{port}", self.scheme()))
    }

    /// The code that holds now.
    pub(crate) fn code(&self) -> String {
        let now = self.ticks();
        self.with_code(|code| code.now(now))
    }

    /// For how much longer it holds. [s]
    pub(crate) fn code_left(&self) -> u64 {
        let now = self.ticks();
        self.with_code(|code| code.left(now))
    }

    /// What a camera is shown: the address with the code in it.
    pub(crate) fn invitation(&self) -> String {
        format!("{}/join/{}", self.address_words(), self.code())
    }

    /// Counts up whenever a code was used, somebody waits, or another address is listened on.
    pub(crate) fn watch(&self) -> watch::Receiver<u64> {
        self.news.subscribe()
    }

    /// How many watch.
    pub(crate) fn watched(&self) -> usize {
        self.news.receiver_count()
    }

    /// Another address: whoever watches is to look again.
    pub(crate) fn is_news(&self) {
        self.news.send_modify(|n| *n += 1);
    }

    /// Those who typed the code and wait for a yes.
    pub(crate) fn waiting(&self) -> Vec<Waiting> {
        let now = self.ticks();
        self.with_line(|line| line.all(now))
    }

    /// Takes one of them out of the line: to be let in, or not.
    pub(crate) fn answer(&self, id: u64, yes: bool) -> Option<Waiting> {
        let now = self.ticks();
        let one = self.with_line(|line| line.answer(id, yes, now));
        self.is_news();
        one
    }

    /// Seconds of a clock that nobody sets.
    fn ticks(&self) -> u64 {
        self.began.elapsed().as_secs()
    }

    fn with_code<T>(&self, work: impl FnOnce(&mut Code) -> T) -> T {
        work(&mut self.code.lock().unwrap_or_else(PoisonError::into_inner))
    }

    fn with_line<T>(&self, work: impl FnOnce(&mut Line) -> T) -> T {
        work(&mut self.line.lock().unwrap_or_else(PoisonError::into_inner))
    }
}

/// The pages as the second listener has them. The door stands around all of it, so that not even the router answers who was
/// not let in.
pub(crate) fn around(pages: Router, app: App, share: Arc<Share>, crowd: Crowd) -> Router {
    door::around(pages, door::Door { app, share, crowd })
}
