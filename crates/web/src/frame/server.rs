//! The server itself: connections with limits on how long they may dawdle, and a stop with an end.

use super::App;
use super::share::{At, Certificate, Crowd, Guest, Peer, Share};
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::server::graceful::{GracefulConnection, GracefulShutdown};
use hyper_util::service::TowerToHyperService;
use std::io;
use std::net::IpAddr;
use std::sync::Arc;
use std::time::Duration;
use tokio::io::{AsyncRead, AsyncWrite};
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::{mpsc, watch};
use tokio_io_timeout::TimeoutStream;
use tokio_rustls::TlsAcceptor;
use tower::ServiceExt;

/// Longest time from the first to the last byte of a request's head, longest that a connection waits idle for the next one,
/// and longest that somebody who was not let in holds one.
const LONGEST_HEAD: Duration = Duration::from_secs(15);
/// Longest that the other side may take nothing of an answer: then it is dropped.
const LONGEST_STALL: Duration = Duration::from_secs(20);
/// Longest that running requests are waited for at the end.
const LONGEST_GOODBYE: Duration = Duration::from_secs(5);
/// Rest after a connection could not be taken, when all files of the process are in use.
const BREATH: Duration = Duration::from_millis(100);

/// Where pages are served.
pub(crate) struct Door {
    pub(crate) pages: axum::Router,
    pub(crate) listener: TcpListener,
    /// What stands around the second listener; `None` for the machine's own.
    pub(crate) shared: Option<Outside>,
}

/// What only the second listener has.
pub(crate) struct Outside {
    pub(crate) share: Arc<Share>,
    /// Who stands there.
    pub(crate) crowd: Crowd,
    /// What it is encrypted by, where it is.
    pub(crate) acceptor: Option<TlsAcceptor>,
    pub(crate) at: watch::Sender<At>,
    /// Other addresses and certificates, as they come.
    pub(crate) moves: mpsc::Receiver<Moved>,
}

/// The second listener goes on elsewhere, or by another certificate.
#[derive(Debug)]
pub struct Moved {
    /// Where; `None` where it stays.
    pub listener: Option<TcpListener>,
    /// What it is encrypted by from now on; `None` where it speaks plainly.
    pub certificate: Option<Certificate>,
}

/// How many files this program may have open at once.
pub(crate) fn most_files() -> usize {
    #[cfg(unix)]
    let most = rustix::process::getrlimit(rustix::process::Resource::Nofile).current;
    #[cfg(not(unix))]
    let most = None;
    most.and_then(|most| usize::try_from(most).ok()).unwrap_or(1 << 20)
}

/// Serves on all of these until `stop` resolves, then lets running requests finish for five seconds, and closes the database.
///
/// # Errors
/// When a listener fails.
pub(crate) async fn serve(
    app: App,
    doors: Vec<Door>,
    stop: impl Future<Output = ()> + Send + 'static,
) -> io::Result<()> {
    let App { store, files, trips, .. } = app;
    trips.resume(&store).await;
    let running = GracefulShutdown::new();
    let open = futures_util::future::join_all(doors.into_iter().map(|door| take(door, &running)));
    tokio::select! {
        _ = open => {}
        () = stop => {}
    }
    files.call_off();
    trips.stop_all(&store).await;
    if tokio::time::timeout(LONGEST_GOODBYE, running.shutdown()).await.is_err() {
        tracing::warn!("some requests were cut off: they had not ended after five seconds");
    }
    store.close().await.map_err(io::Error::other)
}

/// Takes whoever comes, for as long as it is let.
async fn take(door: Door, running: &GracefulShutdown) {
    match door.shared {
        None => take_own(&door.listener, &door.pages, running).await,
        Some(outside) => take_others(door.listener, &door.pages, outside, running).await,
    }
}

/// The next who comes; a moment later where no file is free for him.
async fn next(listener: &TcpListener) -> Option<(TcpStream, IpAddr)> {
    match listener.accept().await {
        Ok((stream, from)) => {
            // Answers are written whole; waiting for more would only delay them.
            let _ = stream.set_nodelay(true);
            Some((stream, from.ip()))
        }
        // The other side gave up before it was taken.
        Err(error) if gave_up(&error) => None,
        Err(error) => {
            tracing::warn!(%error, "a connection could not be taken");
            tokio::time::sleep(BREATH).await;
            None
        }
    }
}

async fn take_own(listener: &TcpListener, pages: &axum::Router, running: &GracefulShutdown) {
    loop {
        if let Some((stream, from)) = next(listener).await {
            let answer = answer(stream, pages.clone(), Peer(from), None);
            tokio::spawn(ended(running.watcher().watch(answer)));
        }
    }
}

async fn take_others(
    mut listener: TcpListener,
    pages: &axum::Router,
    mut outside: Outside,
    running: &GracefulShutdown,
) {
    let mut closed = false;
    loop {
        let Some(room) = outside.crowd.room().await else { return };
        let came = tokio::select! {
            moved = outside.moves.recv(), if !closed => {
                match moved {
                    Some(moved) => outside.moves_to(&mut listener, moved),
                    None => closed = true,
                }
                None
            }
            came = next(&listener) => came,
        };
        let Some((stream, from)) = came else { continue };
        let place = outside.crowd.enter(from, room);
        let (pages, acceptor) = (pages.clone(), outside.acceptor.clone());
        let watcher = running.watcher();
        tokio::spawn(async move {
            let guest = Arc::clone(&place.guest);
            let served = async {
                match acceptor {
                    None => {
                        let guest = Some(Arc::clone(&guest));
                        ended(watcher.watch(answer(stream, pages, Peer(from), guest))).await;
                    }
                    Some(acceptor) => {
                        let Ok(stream) = acceptor.accept(stream).await else {
                            tracing::debug!("a connection spoke no TLS");
                            return;
                        };
                        let guest = Some(Arc::clone(&guest));
                        ended(watcher.watch(answer(stream, pages, Peer(from), guest))).await;
                    }
                }
            };
            let stays = async {
                tokio::select! {
                    () = guest.told_to_go() => {}
                    () = tokio::time::sleep(LONGEST_HEAD) => {}
                }
                // Whoever was let in meanwhile stays.
                if guest.is_known() {
                    std::future::pending::<()>().await;
                }
            };
            tokio::select! {
                () = served => {}
                () = stays => tracing::debug!("a stranger made room"),
            }
            drop(place);
        });
    }
}

impl Outside {
    fn moves_to(&mut self, listener: &mut TcpListener, moved: Moved) {
        if let Some(other) = moved.listener {
            *listener = other;
        }
        let Ok(address) = listener.local_addr() else { return };
        let fingerprint = moved.certificate.as_ref().map(|c| c.fingerprint.clone());
        self.acceptor = moved.certificate.map(|c| c.acceptor);
        tracing::info!(%address, "phones come by another address or certificate from now on");
        self.at.send_replace(At { address, fingerprint });
        self.share.is_news();
    }
}

/// Broken off, timed out, no HTTP at all: none of it is ours to mend.
async fn ended(answer: impl Future<Output = Result<(), hyper::Error>>) {
    if let Err(error) = answer.await {
        tracing::debug!(%error, "a connection ended early");
    }
}

fn gave_up(error: &io::Error) -> bool {
    matches!(
        error.kind(),
        io::ErrorKind::ConnectionRefused
            | io::ErrorKind::ConnectionAborted
            | io::ErrorKind::ConnectionReset
    )
}

/// One connection, and the requests that come over it: each bears who is at its other end.
fn answer<S: AsyncRead + AsyncWrite + Send + 'static>(
    stream: S,
    pages: axum::Router,
    peer: Peer,
    guest: Option<Arc<Guest>>,
) -> impl GracefulConnection<Error = hyper::Error> {
    let mut stream = TimeoutStream::new(stream);
    stream.set_write_timeout(Some(LONGEST_STALL));
    let pages = pages.map_request(move |mut request: hyper::Request<hyper::body::Incoming>| {
        request.extensions_mut().insert(peer);
        if let Some(guest) = &guest {
            request.extensions_mut().insert(Arc::clone(guest));
        }
        request
    });
    hyper::server::conn::http1::Builder::new()
        .timer(TokioTimer::new())
        .header_read_timeout(LONGEST_HEAD)
        .max_buf_size(64 * 1024)
        .serve_connection(TokioIo::new(Box::pin(stream)), TowerToHyperService::new(pages))
}
