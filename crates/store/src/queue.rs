//! Writes wait in a queue: whoever stops waiting takes his place in it along.

use crate::error::{self, StoreError};
use crate::trouble::Health;
use rusqlite::{Transaction, TransactionBehavior};
use std::sync::Arc;
use std::sync::atomic::{AtomicU8, Ordering};
use std::time::Duration;

/// Longest that a write waits for its turn. Others take some 20 ms each.
const LONGEST_WAIT: Duration = Duration::from_secs(15);

const WAITING: u8 = 0;
const BEGUN: u8 = 1;
const WITHDRAWN: u8 = 2;

/// A place in the queue; dropped before its turn it is withdrawn.
struct Place(Arc<AtomicU8>);

impl Place {
    /// True if it had not begun and now never will.
    fn withdraw(&self) -> bool {
        self.0.compare_exchange(WAITING, WITHDRAWN, Ordering::SeqCst, Ordering::SeqCst).is_ok()
    }
}

impl Drop for Place {
    fn drop(&mut self) {
        self.withdraw();
    }
}

/// Runs `job` in a transaction when its turn comes, and `after` when that has ended, well or not.
pub(crate) async fn write<T: Send + 'static>(
    writer: &tokio_rusqlite::Connection,
    health: &Health,
    job: impl FnOnce(&Transaction<'_>) -> Result<T, StoreError> + Send + 'static,
    after: impl FnOnce() + Send + 'static,
) -> Result<T, StoreError> {
    if let (Some(trouble), Some(_)) = (health.trouble(), health.instead()) {
        return Err(StoreError::LooksOnly(trouble));
    }
    let turn = Arc::new(AtomicU8::new(WAITING));
    let place = Place(turn.clone());
    let done = writer.call(move |connection| -> Result<T, StoreError> {
        if turn.compare_exchange(WAITING, BEGUN, Ordering::SeqCst, Ordering::SeqCst).is_err() {
            return Err(StoreError::Busy);
        }
        // A panic would end the writing thread and with it every later change.
        let done = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| {
            let t = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
            let value = job(&t)?;
            t.commit()?;
            Ok(value)
        }))
        .unwrap_or(Err(StoreError::Panicked));
        after();
        done
    });
    let mut done = std::pin::pin!(done);
    let done = tokio::select! {
        done = &mut done => done,
        () = tokio::time::sleep(LONGEST_WAIT) => {
            if place.withdraw() {
                return Err(StoreError::Busy);
            }
            done.await
        }
    };
    let done = done.map_err(error::from_thread);
    match &done {
        Ok(_) => health.wrote(),
        Err(StoreError::Database(error)) => health.failed(error),
        Err(_) => {}
    }
    done
}
