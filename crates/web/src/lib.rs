//! The pages: server-rendered, one address for each state, swapped in place where scripts run.
//!
//! - [`router`] puts everything together; [`serve`] runs it until told to stop, within limits of time (`server`)
//! - `rig`, `day`, `shelf`, `board` the pages in the order of the work: pictures, forms, changes
//! - `asked` a request about a rig and its answer, `view` what the address says, `look` the cookies
//! - `upload` files that are sent, `load` plan files that come back
//! - `forms` what people type, turned into the core's types or into sentences beside the field
//! - `guard` who may ask and write: hosts, origins, sizes, headers
//! - `error` the one place where errors become pages

mod asked;
mod assets;
mod board;
mod day;
mod error;
mod figures;
mod forms;
mod guard;
mod layout;
mod load;
mod look;
mod render;
mod rig;
mod server;
mod shelf;
mod start;
mod upload;
mod view;

pub use server::serve;

use axum::Router;
use axum::routing::get;
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::Candidate;
use lake_hour_store::{RigId, Store, StoreError};
use std::net::SocketAddr;
use std::sync::Arc;
use tokio::sync::Semaphore;

/// What the pages need.
#[derive(Debug, Clone)]
pub struct App {
    store: Store,
    /// The demonstration plan that an empty database offers to begin with, and its shelf.
    demo: Arc<Demo>,
    /// As many evaluations at once as there are cores: more would only wait for each other.
    evaluations: Arc<Semaphore>,
    /// Files on their way to the shelf.
    files: shelf::Files,
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
        store.import(example.plan.clone()).await.map(Some)
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

impl App {
    /// Pages over a store.
    pub fn new(store: Store, demo: Demo) -> Self {
        let cores = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
        Self {
            store,
            demo: Arc::new(demo),
            evaluations: Arc::new(Semaphore::new(cores)),
            files: shelf::Files::default(),
        }
    }
}

/// All addresses, with the guards around them. `host` is what the browser must call this server.
pub fn router(app: App, host: SocketAddr) -> Router {
    let pages = Router::new()
        .route("/healthz", get(async || "ok"))
        .merge(start::routes())
        .merge(board::routes())
        .merge(day::routes())
        .merge(rig::routes())
        .merge(shelf::routes())
        .merge(load::routes())
        .merge(look::routes())
        .merge(assets::routes())
        .fallback(error::no_such_page)
        .method_not_allowed_fallback(error::wrong_method)
        .with_state(app);
    guard::around(pages, host)
}
