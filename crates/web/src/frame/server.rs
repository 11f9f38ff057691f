//! The server itself: connections with limits on how long they may dawdle, and a stop with an end.

use super::App;
use super::share::Peer;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::server::graceful::{GracefulConnection, GracefulShutdown};
use hyper_util::service::TowerToHyperService;
use std::io;
use std::time::Duration;
use tokio::io::{AsyncRead, AsyncWrite};
use tokio::net::TcpListener;
use tokio_io_timeout::TimeoutStream;
use tokio_rustls::TlsAcceptor;
use tower::ServiceExt;

/// Longest time from the first to the last byte of a request's head, and longest that a connection waits
/// idle for the next one.
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
    /// What it is encrypted by, where it is.
    pub(crate) acceptor: Option<TlsAcceptor>,
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
    let open = futures_util::future::join_all(doors.iter().map(|door| take(door, &running)));
    tokio::select! {
        _ = open => {}
        () = stop => {}
    }
    drop(doors);
    files.call_off();
    trips.stop_all(&store).await;
    if tokio::time::timeout(LONGEST_GOODBYE, running.shutdown()).await.is_err() {
        tracing::warn!("some requests were cut off: they had not ended after five seconds");
    }
    store.close().await.map_err(io::Error::other)
}

/// Takes whoever comes, for as long as it is let.
async fn take(door: &Door, running: &GracefulShutdown) {
    loop {
        match door.listener.accept().await {
            Ok((stream, from)) => {
                // Answers are written whole; waiting for more would only delay them.
                let _ = stream.set_nodelay(true);
                let peer = Peer(from.ip());
                let pages = door.pages.clone();
                let watcher = running.watcher();
                match door.acceptor.clone() {
                    None => {
                        let answer = watcher.watch(answer(stream, pages, peer));
                        tokio::spawn(ended(answer));
                    }
                    Some(acceptor) => {
                        tokio::spawn(async move {
                            let shaken =
                                tokio::time::timeout(LONGEST_HEAD, acceptor.accept(stream));
                            let Ok(Ok(stream)) = shaken.await else {
                                tracing::debug!("a connection spoke no TLS");
                                return;
                            };
                            ended(watcher.watch(answer(stream, pages, peer))).await;
                        });
                    }
                }
            }
            // The other side gave up before it was taken.
            Err(error) if gave_up(&error) => {}
            Err(error) => {
                tracing::warn!(%error, "a connection could not be taken");
                tokio::time::sleep(BREATH).await;
            }
        }
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
) -> impl GracefulConnection<Error = hyper::Error> {
    let mut stream = TimeoutStream::new(stream);
    stream.set_write_timeout(Some(LONGEST_STALL));
    let pages = pages.map_request(move |mut request: hyper::Request<hyper::body::Incoming>| {
        request.extensions_mut().insert(peer);
        request
    });
    hyper::server::conn::http1::Builder::new()
        .timer(TokioTimer::new())
        .header_read_timeout(LONGEST_HEAD)
        .max_buf_size(64 * 1024)
        .serve_connection(TokioIo::new(Box::pin(stream)), TowerToHyperService::new(pages))
}
