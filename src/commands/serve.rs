//! `lake-hour serve` and `lake-hour demo`: the pages, until Ctrl-C.

use super::{Failed, print};
use anyhow::Context;
use etcetera::BaseStrategy;
use lake_hour_store::Store;
use lake_hour_web::{App, Demo, Example};
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr, SocketAddr};
use std::path::{Path, PathBuf};
use std::time::Duration;
use tokio::net::TcpListener;

/// The Heron Pond example. All of it is invented.
const DEMO_PLANS: [(&str, &str, &[u8]); 4] = [
    (
        "demo",
        "A day of holding stations in the wind: which pack still comes home against the breeze, and what the tired AGM pair does.",
        include_bytes!("../../demo/heron-pond.plan.json"),
    ),
    (
        "demo-canoe",
        "Dawn loops, eighteen a year: every pound is carried to the water, and the cheap battery may be the better buy.",
        include_bytes!("../../demo/heron-pond-canoe.plan.json"),
    ),
    (
        "demo-cart",
        "Three hilly rounds a day on eight worn 6 V batteries: six, eight or one, and the charger that must change too.",
        include_bytes!("../../demo/heron-pond-cart.plan.json"),
    ),
    (
        "demo-barge",
        "A 6 kW outboard: which pack can feed full throttle at all, and how hard the others may be driven.",
        include_bytes!("../../demo/heron-pond-barge.plan.json"),
    ),
];
const DEMO_SHELF: &[u8] = include_bytes!("../../demo/heron-pond.shelf.json");

fn demo_data() -> Result<Demo, Failed> {
    let read = |(key, story, plan): (_, _, &[u8])| -> Result<Example, Failed> {
        Ok(Example { key, story, plan: lake_hour_formats::plan::read(plan)? })
    };
    let plans = DEMO_PLANS.into_iter().map(read).collect::<Result<_, _>>()?;
    Ok(Demo { plans, shelf: lake_hour_formats::shelf::read(DEMO_SHELF)? })
}

pub(crate) fn demo(listen: SocketAddr) -> Result<(), Failed> {
    let folder = tempfile::Builder::new()
        .prefix("lake-hour-demo-")
        .tempdir()
        .context("cannot make a temporary folder")?;
    run(&folder.path().join("demo.db"), listen, true)
}

pub(crate) fn serve(db: Option<PathBuf>, listen: SocketAddr) -> Result<(), Failed> {
    let db = match db {
        Some(db) => db,
        None => {
            let folders = etcetera::base_strategy::choose_native_strategy()
                .context("this account has no data folder; name a file with --db")?;
            let folder = folders.data_dir().join("lake-hour");
            let folder = if cfg!(windows) { folder.join("data") } else { folder };
            folder.join("lake-hour.db")
        }
    };
    if let Some(folder) = db.parent().filter(|f| !f.as_os_str().is_empty()) {
        std::fs::create_dir_all(folder)
            .with_context(|| format!("cannot make the folder {}", folder.display()))?;
    }
    run(&db, listen, false)
}

fn run(db: &Path, listen: SocketAddr, with_demo: bool) -> Result<(), Failed> {
    let demo = demo_data()?;
    let runtime = tokio::runtime::Runtime::new().context("cannot start")?;
    runtime.block_on(async {
        let store = Store::open(db).await.context("cannot start")?;
        if with_demo {
            demo.fill(&store).await.context("cannot fill in the example")?;
        }
        let listener = TcpListener::bind(listen).await.with_context(|| {
            format!(
                "cannot listen on {listen}: another program may have it; try --listen 127.0.0.1:0"
            )
        })?;
        let address = listener.local_addr().context("cannot tell the address")?;
        if !address.ip().is_loopback() {
            tracing::warn!(%address, "reachable from other machines, and there is no password");
        }
        print(&format!("Lake Hour is ready at http://{}/\n", within_reach(address)))?;
        let (stop, mut told) = tokio::sync::watch::channel(false);
        tokio::spawn(async move {
            stopped().await;
            let _ = stop.send(true);
            // Whoever asks twice does not want to wait.
            stopped().await;
            std::process::exit(130);
        });
        let stop = async move {
            let _ = told.wait_for(|stop| *stop).await;
        };
        lake_hour_web::serve(App::new(store, demo), listener, stop)
            .await
            .context("the server failed")?;
        Ok::<_, Failed>(())
    })?;
    // What still runs is nothing that anybody waits for.
    runtime.shutdown_timeout(Duration::from_millis(500));
    Ok(())
}

/// An address that this machine can be asked by: what listens on all of them has none of its own.
fn within_reach(listening: SocketAddr) -> SocketAddr {
    let ip = match listening.ip() {
        IpAddr::V4(ip) if ip.is_unspecified() => Ipv4Addr::LOCALHOST.into(),
        IpAddr::V6(ip) if ip.is_unspecified() => Ipv6Addr::LOCALHOST.into(),
        ip => ip,
    };
    SocketAddr::new(ip, listening.port())
}

/// Ctrl-C, or the signal that a service manager sends.
async fn stopped() {
    let interrupt = async {
        // Without the handler the process simply ends on the signal, which is as good.
        if tokio::signal::ctrl_c().await.is_err() {
            std::future::pending::<()>().await;
        }
    };
    #[cfg(unix)]
    let terminate = async {
        match tokio::signal::unix::signal(tokio::signal::unix::SignalKind::terminate()) {
            Ok(mut signal) => {
                signal.recv().await;
            }
            Err(_) => std::future::pending().await,
        }
    };
    #[cfg(not(unix))]
    let terminate = std::future::pending::<()>();
    tokio::select! {
        () = interrupt => {}
        () = terminate => {}
    }
}
