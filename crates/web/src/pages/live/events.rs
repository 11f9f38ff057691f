//! What is told each second to whoever looks: server-sent events (WHATWG HTML, section 9.2).

use super::face::Face;
use crate::frame::asked::Asked;
use crate::frame::error::PageError;
use crate::frame::share::{self, Seat};
use axum::Extension;
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{IntoResponse, Response};
use std::convert::Infallible;
use std::time::Duration;
use tokio_stream::wrappers::ReceiverStream;

/// Nobody is told oftener.
const OFTEN: Duration = Duration::from_millis(950);
/// Most that look at once.
const MOST: usize = 64;

/// The face of the trip now and then once a second; an end where the trip ends.
pub(crate) async fn events(
    seat: Option<Extension<Seat>>,
    asked: Asked,
) -> Result<Response, PageError> {
    let (rig, look) = (asked.rig, asked.look);
    let running = asked.app.trips.of(rig).ok_or_else(super::gone)?;
    let mut changed = running.watch();
    if running.watched() > MOST {
        return Err(PageError::Busy);
    }
    let (send, receive) = tokio::sync::mpsc::channel::<Result<Event, Infallible>>(2);
    let app = asked.app.clone();
    // No hold on the trip itself: what has ended is not kept alive by who looks.
    let weak = std::sync::Arc::downgrade(&running);
    drop(running);
    tokio::spawn(async move {
        loop {
            let there =
                weak.upgrade().filter(|r| app.trips.of(rig).is_some_and(|now| now.id == r.id));
            let Some(running) = there else {
                let _ = send.send(Ok(Event::default().event("over").data("over"))).await;
                return;
            };
            // Whoever was shut out meanwhile is told nothing more.
            if let Some(Extension(seat)) = seat
                && !matches!(app.store.device_of(seat.0, share::now()).await, Ok(Some(_)))
            {
                return;
            }
            let face = Face::of(&running.seen(), look);
            drop(running);
            let Ok(data) = serde_json::to_string(&face) else { return };
            if send.send(Ok(Event::default().data(data))).await.is_err() {
                return;
            }
            tokio::time::sleep(OFTEN).await;
            // What came meanwhile is in the next one: that is told when it comes, not a little before it.
            changed.mark_unchanged();
            if changed.changed().await.is_err() {
                // It was let go: the end is told above.
                continue;
            }
        }
    });
    let stream = Sse::new(ReceiverStream::new(receive));
    Ok(stream.keep_alive(KeepAlive::new().interval(Duration::from_secs(10))).into_response())
}
