//! What takes long waits its turn on threads of its own, behind the pages: two at a time, a few that wait, called off when
//! whoever asked has gone or when it takes too long.

use super::error::PageError;
use rayon::{ThreadPool, ThreadPoolBuilder};
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::sync::{Arc, OnceLock};
use std::time::{Duration, Instant};
use tokio::sync::{Semaphore, oneshot};

/// At work at once, and those that wait for it.
const AT_ONCE: usize = 2;
const MOST_WAITING: usize = 16;
/// Longest that one takes.
const LONGEST: Duration = Duration::from_secs(20);
/// By so much these threads give way to those that answer pages.
#[cfg(target_os = "linux")]
const GIVES_WAY: i32 = 5;

/// Where long work is done.
#[derive(Debug, Clone)]
pub(crate) struct Heavy {
    pool: Arc<OnceLock<Option<ThreadPool>>>,
    turns: Arc<Semaphore>,
    there: Arc<AtomicUsize>,
}

impl Default for Heavy {
    fn default() -> Self {
        Self {
            pool: Arc::default(),
            turns: Arc::new(Semaphore::new(AT_ONCE)),
            there: Arc::default(),
        }
    }
}

/// Whether somebody still waits for a work, and the threads it may use.
#[derive(Debug, Clone)]
pub(crate) struct Work {
    heavy: Heavy,
    off: Arc<AtomicBool>,
    until: Instant,
}

/// Nobody waits any more, or it took too long.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct CalledOff;

impl Work {
    /// Between two steps: whether to go on.
    pub(crate) fn goes_on(&self) -> Result<(), CalledOff> {
        let off = self.off.load(Ordering::Relaxed) || Instant::now() >= self.until;
        if off { Err(CalledOff) } else { Ok(()) }
    }

    /// Among the cores, behind the pages.
    pub(crate) fn shared<T: Send>(&self, work: impl FnOnce() -> T + Send) -> T {
        match self.heavy.pool() {
            Some(pool) => pool.install(work),
            // Without threads of its own it is done by this one.
            None => work(),
        }
    }
}

/// The thread that calls it gives way to others.
fn give_way() {
    #[cfg(target_os = "linux")]
    {
        // Of this thread alone: Linux counts each as a process here.
        let _ = rustix::process::setpriority_process(Some(rustix::thread::gettid()), GIVES_WAY);
    }
}

impl Heavy {
    fn pool(&self) -> Option<&ThreadPool> {
        let made = || {
            let cores = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
            // Where threads cannot give way one core is left to the pages.
            let threads = if cfg!(target_os = "linux") { cores } else { (cores - 1).max(1) };
            let builder = ThreadPoolBuilder::new().num_threads(threads);
            builder.thread_name(|n| format!("heavy-{n}")).start_handler(|_| give_way()).build().ok()
        };
        self.pool.get_or_init(made).as_ref()
    }

    /// Does it when its turn comes.
    pub(crate) async fn does<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Work) -> Result<T, CalledOff> + Send + 'static,
    ) -> Result<T, PageError> {
        /// Of those who wait, until it is dropped; what it asked for is called off then.
        struct Waits(Heavy, Arc<AtomicBool>);
        impl Drop for Waits {
            fn drop(&mut self) {
                self.1.store(true, Ordering::Relaxed);
                self.0.there.fetch_sub(1, Ordering::Relaxed);
            }
        }
        if self.there.fetch_add(1, Ordering::Relaxed) >= AT_ONCE + MOST_WAITING {
            self.there.fetch_sub(1, Ordering::Relaxed);
            return Err(PageError::TooLong);
        }
        let off = Arc::new(AtomicBool::new(false));
        let waits = Waits(self.clone(), Arc::clone(&off));
        let turn = self.turns.clone().acquire_owned().await.map_err(|_| PageError::Broken)?;
        let until = Instant::now() + LONGEST;
        let context = Work { heavy: self.clone(), off, until };
        let (send, done) = oneshot::channel();
        let thread = std::thread::Builder::new().name("heavy".to_owned()).spawn(move || {
            give_way();
            let done = work(&context);
            drop(turn);
            let _ = send.send(done);
        });
        thread.map_err(|_| PageError::Broken)?;
        // A panic drops the other end.
        let done = done.await.map_err(|_| PageError::Broken);
        drop(waits);
        done?.map_err(|CalledOff| PageError::TooLong)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::mpsc;

    /// Two are at work, the others wait; whoever goes takes its work along, and there is an end to those who wait.
    #[tokio::test(flavor = "multi_thread")]
    async fn long_work_waits_its_turn_and_is_called_off() {
        let heavy = Heavy::default();
        let there = |n: usize| heavy.there.load(Ordering::Relaxed) == n;
        let (began, begins) = mpsc::channel();
        let (ended, ends) = mpsc::channel();
        let long = || {
            let (heavy, began, ended) = (heavy.clone(), began.clone(), ended.clone());
            tokio::spawn(async move {
                let done = heavy.does(move |work| {
                    began.send(()).expect("heard");
                    while work.goes_on().is_ok() {
                        std::thread::yield_now();
                    }
                    ended.send(()).expect("heard");
                    Err::<(), _>(CalledOff)
                });
                done.await.is_ok()
            })
        };
        let all: Vec<_> = (0..AT_ONCE + MOST_WAITING).map(|_| long()).collect();
        while !there(AT_ONCE + MOST_WAITING) {
            tokio::task::yield_now().await;
        }
        assert!(matches!(heavy.does(|_| Ok(1)).await, Err(PageError::TooLong)), "no more wait");
        for _ in 0..AT_ONCE {
            begins.recv().expect("it is at work");
        }
        assert!(begins.try_recv().is_err(), "two at once");
        all.iter().for_each(tokio::task::JoinHandle::abort);
        for _ in 0..AT_ONCE {
            ends.recv().expect("it was called off");
        }
        // Nobody is left, and the next one is done at once.
        while !there(0) {
            tokio::task::yield_now().await;
        }
        assert_eq!(heavy.does(|work| Ok(work.shared(|| 41) + 1)).await.expect("done"), 42);
        let broken = heavy.does(|_| -> Result<(), CalledOff> { panic!("ours") }).await;
        assert!(matches!(broken, Err(PageError::Broken)));
    }
}
