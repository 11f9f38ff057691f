//! What stands around every page and knows none: a request and its answer, the address, the cookies, the
//! head, the errors, files on their way, and what was worked out already.

pub(crate) mod asked;
pub(crate) mod assets;
pub(crate) mod brought;
pub(crate) mod error;
pub(crate) mod form;
pub(crate) mod guard;
pub(crate) mod head;
pub(crate) mod heavy;
pub(crate) mod held;
pub(crate) mod judged;
pub(crate) mod look;
pub(crate) mod once;
pub(crate) mod proposed;
pub(crate) mod records;
pub(crate) mod render;
pub(crate) mod server;
pub(crate) mod share;
pub(crate) mod trips;
pub(crate) mod turned;
pub(crate) mod upload;
pub(crate) mod view;
pub(crate) mod weighed;

pub use head::moment;

use asked::Scene;
use brought::Brought;
use error::PageError;
use heavy::Heavy;
use held::Files;
use judged::Verdicts;
use lake_hour_core::log::Log;
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::Candidate;
use lake_hour_store::{RigId, Store, StoreError};
use once::Once;
use proposed::Proposed;
use records::Records;
use render::Render;
use share::Share;
use std::sync::{Arc, OnceLock};
use tokio::sync::Semaphore;
use trips::Trips;
use weighed::Weighing;

/// How a page of a rig is drawn; which one, its scene says.
pub(crate) type Drawing = fn(&Scene, Render) -> Result<String, PageError>;

/// What the pages need.
#[derive(Debug, Clone)]
pub struct App {
    pub(crate) store: Store,
    /// The demonstration plan that an empty database offers to begin with, and its shelf.
    pub(crate) demo: Arc<Demo>,
    /// As many evaluations at once as there are cores: more would only wait for each other.
    evaluations: Arc<Semaphore>,
    /// What takes long.
    pub(crate) heavy: Heavy,
    /// What they came to.
    pub(crate) verdicts: Verdicts,
    /// What was submitted just now.
    once: Once,
    /// What was proposed of the shelf.
    pub(crate) proposed: Proposed,
    /// What decisions rest on.
    pub(crate) weighing: Weighing,
    /// Files on their way to the shelf.
    pub(crate) files: Files,
    /// Tables of monitors that wait to be told of.
    pub(crate) records: Records,
    /// Trips under way.
    pub(crate) trips: Trips,
    /// The second listener, where there is one.
    pub(crate) share: Arc<OnceLock<Arc<Share>>>,
    /// A copy that was sent to be brought back, and looked at.
    pub(crate) brought: Brought,
    drawing: Drawing,
}

impl App {
    pub(crate) fn drawn_by(store: Store, demo: Demo, drawing: Drawing) -> Self {
        let cores = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
        Self {
            store,
            demo: Arc::new(demo),
            evaluations: Arc::new(Semaphore::new(cores)),
            heavy: Heavy::default(),
            verdicts: Verdicts::default(),
            once: Once::default(),
            proposed: Proposed::default(),
            weighing: Weighing::default(),
            files: Files::default(),
            records: Records::default(),
            trips: Trips::default(),
            share: Arc::default(),
            brought: Brought::default(),
            drawing,
        }
    }

    /// Puts other data in the place of all: trips that are under way stop before, and those of the other data go on.
    pub(crate) async fn replaced<T>(
        &self,
        work: impl Future<Output = Result<T, StoreError>>,
    ) -> Result<T, PageError> {
        self.trips.stop_all(&self.store).await;
        let done = work.await;
        self.trips.resume(&self.store).await;
        Ok(done?)
    }

    /// Works something out beside the requests, as many at once as there are cores.
    pub(crate) async fn working<T: Send + 'static>(
        &self,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, PageError> {
        let permit = self.evaluations.clone().acquire_owned().await;
        let _permit = permit.map_err(|_| PageError::Broken)?;
        tokio::task::spawn_blocking(work).await.map_err(|_| PageError::Broken)
    }

    /// The examples there are.
    pub(crate) fn offers(&self) -> Vec<Offer> {
        let all = self.demo.plans.iter();
        all.map(|e| Offer { key: e.key, name: e.plan.rig.name.clone(), story: e.story }).collect()
    }
}

/// An example that can be added.
pub(crate) struct Offer {
    pub(crate) key: &'static str,
    pub(crate) name: String,
    pub(crate) story: &'static str,
}

/// The demonstration: rigs with their days and packs, and a shelf to choose from.
#[derive(Debug, Clone)]
pub struct Demo {
    /// The plans, each telling another story: its key, its story in a sentence, the plan.
    pub plans: Vec<Example>,
    /// The batteries.
    pub shelf: Vec<Candidate>,
}

/// One rig of the demonstration.
#[derive(Debug, Clone)]
pub struct Example {
    /// Stands in the address that adds it.
    pub key: &'static str,
    /// What it is about.
    pub story: &'static str,
    /// The rig, its day, its packs.
    pub plan: Plan,
    /// What was logged of it.
    pub log: Log,
}

impl Demo {
    /// Adds one of its rigs to a store, and the shelf where that is empty. Returns the rig; `None` when
    /// there is none of that key.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn add(&self, store: &Store, key: &str) -> Result<Option<RigId>, StoreError> {
        let Some(example) = self.plans.iter().find(|e| e.key == key) else { return Ok(None) };
        store.stock(self.shelf.clone()).await?;
        let rig = store.import(example.plan.clone()).await?;
        store.begin_log(rig, example.log.clone()).await?;
        Ok(Some(rig))
    }

    /// Adds all of them.
    ///
    /// # Errors
    /// [`StoreError`] when they cannot be written.
    pub async fn fill(&self, store: &Store) -> Result<(), StoreError> {
        for example in &self.plans {
            self.add(store, example.key).await?;
        }
        Ok(())
    }
}
