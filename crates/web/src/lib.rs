//! The pages: server-rendered, one address for each state, swapped in place where scripts run.
//!
//! - `frame` what stands around every page: a request and its answer, the address, cookies, guards, errors
//! - `forms` what people type, turned into the core's types or into sentences beside the field
//! - `parts` what several pages are made of: lanes, the day's strip, curves, figures in words
//! - `pages` one folder for each tab; none knows another
//!
//! [`router`] puts everything together; [`serve`] runs it until told to stop, within limits of time.

mod figures;
mod forms;
mod frame;
mod pages;
mod parts;

pub use frame::server::Moved;
pub use frame::share::{Certificate, own_address, own_name};
pub use frame::{App, Demo, Example, moment};

use axum::Router;
use axum::middleware;
use axum::routing::get;
use frame::asked::Scene;
use frame::error::PageError;
use frame::guard::Called;
use frame::render::Render;
use frame::share::{At, Crowd, Share};
use frame::view::Page;
use frame::{assets, error, guard, look, once, server, share};
use lake_hour_store::Store;
use pages::{
    api, board, build, compare, data, day, kept, live, load, log, packs, reading, rig,
    share as sharing, shelf, start,
};
use std::net::SocketAddr;
use std::sync::Arc;
use tokio::net::TcpListener;
use tokio::sync::{mpsc, watch};

impl App {
    /// Pages over a store.
    pub fn new(store: Store, demo: Demo) -> Self {
        Self::drawn_by(store, demo, draw)
    }
}

/// The page that a scene is of. The shelf and the packs draw themselves: most of them belongs to no rig.
fn draw(scene: &Scene, render: Render) -> Result<String, PageError> {
    match scene.view.page {
        Page::Rig => rig::RigPage::new(scene).html(render),
        Page::Day => day::html(scene, render),
        Page::Build => build::BuildPage::new(scene).html(render),
        Page::Log => log::LogPage::new(scene).html(render),
        Page::Live => live::LivePage::new(scene).html(render),
        Page::Board | Page::Shelf | Page::Packs => board::BoardPage::new(scene).html(render),
    }
}

/// A second listener, in the network of whoever owns this machine.
#[derive(Debug)]
pub struct Shared {
    /// Where it listens.
    pub listener: TcpListener,
    /// What it is encrypted by; `None` where it speaks plainly.
    pub certificate: Option<Certificate>,
    /// What this machine is called there, as in "shed.local".
    pub name: Option<String>,
    /// Other addresses and certificates, as they come.
    pub moves: mpsc::Receiver<Moved>,
}

/// Serves on `listener`, and on a second one where that is given, until `stop` resolves, then lets running requests finish for
/// five seconds, and closes the database.
///
/// # Errors
/// When a listener fails.
pub async fn serve(
    app: App,
    listener: TcpListener,
    shared: Option<Shared>,
    stop: impl Future<Output = ()> + Send + 'static,
) -> std::io::Result<()> {
    let pages = router(app.clone(), listener.local_addr()?);
    let mut doors = vec![server::Door { pages, listener, shared: None }];
    if let Some(Shared { listener, certificate, name, moves }) = shared {
        let fingerprint = certificate.as_ref().map(|c| c.fingerprint.clone());
        let (at, where_now) = watch::channel(At { address: listener.local_addr()?, fingerprint });
        let share = Arc::new(Share::new(where_now, name));
        let crowd = Crowd::new(server::most_files());
        let pages = called(app.clone(), share.called());
        let pages = share::around(pages, app.clone(), Arc::clone(&share), crowd.clone());
        let acceptor = certificate.map(|c| c.acceptor);
        // Set once, before anybody is answered.
        let _ = app.share.set(Arc::clone(&share));
        let outside = server::Outside { share, crowd, acceptor, at, moves };
        doors.push(server::Door { pages, listener, shared: Some(outside) });
    }
    server::serve(app, doors, stop).await
}

/// All addresses, with the guards around them. `host` is what the browser must call this server.
pub fn router(app: App, host: SocketAddr) -> Router {
    called(app, Called::at(host))
}

fn called(app: App, called: Called) -> Router {
    let pages = Router::new()
        .route("/healthz", get(async || "ok"))
        .merge(start::routes())
        .merge(api::routes())
        .merge(board::routes())
        .merge(build::routes())
        .merge(compare::routes())
        .merge(log::routes())
        .merge(live::routes())
        .merge(data::routes())
        .merge(day::routes())
        .merge(rig::routes())
        .merge(sharing::routes())
        .merge(shelf::routes())
        .merge(packs::routes())
        .merge(load::routes())
        .merge(reading::routes())
        .merge(kept::routes())
        .merge(look::routes())
        .merge(assets::routes())
        .fallback(error::no_such_page)
        .method_not_allowed_fallback(error::wrong_method)
        .layer(middleware::from_fn_with_state(app.clone(), look::with_trouble))
        .layer(middleware::from_fn_with_state(app.clone(), once::only_once))
        .with_state(app.clone());
    // Around the guards as well: what they draw says too why nothing can be changed.
    guard::around(pages, called).layer(middleware::from_fn_with_state(app, look::with_trouble))
}
