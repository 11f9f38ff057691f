//! The server itself: connections with limits on how long they may dawdle, and a stop with an end.

use super::App;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::server::graceful::GracefulShutdown;
use hyper_util::service::TowerToHyperService;
use std::io;
use std::time::Duration;
use tokio::net::{TcpListener, TcpStream};
use tokio_io_timeout::TimeoutStream;

/// Longest time from the first to the last byte of a request's head, and longest that a connection waits
/// idle for the next one.
const LONGEST_HEAD: Duration = Duration::from_secs(15);
/// Longest that the other side may take nothing of an answer: then it is dropped.
const LONGEST_STALL: Duration = Duration::from_secs(20);
/// Longest that running requests are waited for at the end.
const LONGEST_GOODBYE: Duration = Duration::from_secs(5);
/// Rest after a connection could not be taken, when all files of the process are in use.
const BREATH: Duration = Duration::from_millis(100);

/// Serves these pages on `listener` until `stop` resolves, then lets running requests finish for five seconds, and
/// closes the database.
///
/// # Errors
/// When the listener fails.
pub(crate) async fn serve(
    app: App,
    pages: axum::Router,
    listener: TcpListener,
    stop: impl Future<Output = ()> + Send + 'static,
) -> io::Result<()> {
    let App { store, files, trips, .. } = app;
    trips.resume(&store).await;
    let running = GracefulShutdown::new();
    let mut stop = std::pin::pin!(stop);
    loop {
        let taken = tokio::select! {
            taken = listener.accept() => taken,
            () = &mut stop => break,
        };
        match taken {
            Ok((stream, _)) => {
                let answer = answer(stream, pages.clone());
                let answer = running.watch(answer);
                tokio::spawn(async move {
                    // Broken off, timed out, no HTTP at all: none of it is ours to mend.
                    if let Err(error) = answer.await {
                        tracing::debug!(%error, "a connection ended early");
                    }
                });
            }
            // The other side gave up before it was taken.
            Err(error) if gave_up(&error) => {}
            Err(error) => {
                tracing::warn!(%error, "a connection could not be taken");
                tokio::time::sleep(BREATH).await;
            }
        }
    }
    drop(listener);
    files.call_off();
    trips.stop_all(&store).await;
    if tokio::time::timeout(LONGEST_GOODBYE, running.shutdown()).await.is_err() {
        tracing::warn!("some requests were cut off: they had not ended after five seconds");
    }
    store.close().await.map_err(io::Error::other)
}

fn gave_up(error: &io::Error) -> bool {
    matches!(
        error.kind(),
        io::ErrorKind::ConnectionRefused
            | io::ErrorKind::ConnectionAborted
            | io::ErrorKind::ConnectionReset
    )
}

type Answered = hyper::server::conn::http1::Connection<
    TokioIo<std::pin::Pin<Box<TimeoutStream<TcpStream>>>>,
    TowerToHyperService<axum::Router>,
>;

/// One connection, and the requests that come over it.
fn answer(stream: TcpStream, pages: axum::Router) -> Answered {
    // Answers are written whole; waiting for more would only delay them.
    let _ = stream.set_nodelay(true);
    let mut stream = TimeoutStream::new(stream);
    stream.set_write_timeout(Some(LONGEST_STALL));
    hyper::server::conn::http1::Builder::new()
        .timer(TokioTimer::new())
        .header_read_timeout(LONGEST_HEAD)
        .max_buf_size(64 * 1024)
        .serve_connection(TokioIo::new(Box::pin(stream)), TowerToHyperService::new(pages))
}
