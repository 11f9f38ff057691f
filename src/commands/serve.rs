//! `lake-hour serve` and `lake-hour demo`: the pages, until Ctrl-C.

use super::{Failed, print, season};
use anyhow::Context;
use etcetera::BaseStrategy;
use lake_hour_store::Store;
use lake_hour_web::{App, Certificate, Demo, Example, Moved, Shared};
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr, SocketAddr};
use std::path::{Path, PathBuf};
use std::time::Duration;
use tokio::net::TcpListener;

/// The Heron Pond example. All of it is invented.
pub(super) const DEMO_PLANS: [(&str, &str, &[u8]); 4] = [
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
        let plan = lake_hour_formats::plan::read(plan)?;
        let log = season::of(key, &plan, jiff::ZonedDateTime::now().date());
        Ok(Example { key, story, plan, log })
    };
    let plans = DEMO_PLANS.into_iter().map(read).collect::<Result<_, _>>()?;
    Ok(Demo { plans, shelf: lake_hour_formats::shelf::read(DEMO_SHELF)? })
}

pub(crate) fn demo(listen: SocketAddr) -> Result<(), Failed> {
    let folder = tempfile::Builder::new()
        .prefix("lake-hour-demo-")
        .tempdir()
        .context("cannot make a temporary folder")?;
    run(&folder.path().join("demo.db"), listen, Start { with_demo: true, open: false, share: None })
}

/// The database that is meant, its folder made.
pub(crate) fn usual_db(db: Option<PathBuf>) -> Result<PathBuf, Failed> {
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
    Ok(db)
}

pub(crate) fn serve(
    db: Option<PathBuf>,
    listen: SocketAddr,
    open: bool,
    share: Option<Sharing>,
) -> Result<(), Failed> {
    run(&usual_db(db)?, listen, Start { with_demo: false, open, share })
}

/// A second listener in one's own network.
#[derive(Clone, Copy)]
pub(crate) struct Sharing {
    /// Where; this machine's own address where it is not told.
    pub(crate) on: Option<SocketAddr>,
    /// Without encryption.
    pub(crate) plain: bool,
}

/// The usual port of the second listener.
const SHARED: u16 = 8643;

impl Sharing {
    async fn listens(self, db: &Path) -> Result<Shared, Failed> {
        let refused = |says: String| Failed::Input(vec![says]);
        let own = || Some(SocketAddr::new(lake_hour_web::own_address()?, SHARED));
        let on = self.on.or_else(own).ok_or_else(|| {
            refused("--share: this machine is in no network of its own; name its address, as in --share-on 192.168.1.5:8643".to_owned())
        })?;
        if on.ip().is_unspecified() {
            let says = "--share-on: name one address of this machine, as in 192.168.1.5:8643";
            return Err(refused(says.to_owned()));
        }
        let listener = TcpListener::bind(on).await.with_context(|| {
            format!("cannot listen on {on}: another program may have it, or it is no address of this machine")
        })?;
        let mut beside = db.as_os_str().to_owned();
        beside.push(".certificate.pem");
        let by = By { file: beside.into(), plain: self.plain, name: lake_hour_web::own_name() };
        let certificate = by
            .certificate(on.ip())
            .with_context(|| format!("no certificate in {}", by.file.display()))?;
        let (send, moves) = tokio::sync::mpsc::channel(1);
        let name = by.name.clone();
        let now =
            At { ip: on.ip(), fingerprint: certificate.as_ref().map(|c| c.fingerprint.clone()) };
        tokio::spawn(follow(by, now, self.on.is_none(), send));
        Ok(Shared { listener, certificate, name, moves })
    }
}

/// What a second listener is encrypted by, and called.
struct By {
    file: PathBuf,
    plain: bool,
    name: Option<String>,
}

impl By {
    fn certificate(&self, ip: IpAddr) -> std::io::Result<Option<Certificate>> {
        let kept = || Certificate::kept(&self.file, ip, self.name.as_deref());
        if self.plain { Ok(None) } else { kept().map(Some) }
    }
}

/// Where a second listener is.
struct At {
    ip: IpAddr,
    fingerprint: Option<String>,
}

/// The address in the network is looked at so often: whoever drives from home to the ramp waits no longer for it.
const LOOKS: Duration = Duration::from_secs(5);

/// Follows this machine from network to network, and makes the certificate anew in time.
async fn follow(by: By, mut at: At, moves: bool, send: tokio::sync::mpsc::Sender<Moved>) {
    loop {
        tokio::time::sleep(LOOKS).await;
        let ip = if moves { lake_hour_web::own_address().unwrap_or(at.ip) } else { at.ip };
        let listener = if ip == at.ip {
            None
        } else {
            match TcpListener::bind(SocketAddr::new(ip, SHARED)).await {
                Ok(listener) => Some(listener),
                // Not ours yet, or taken: it is tried again.
                Err(_) => continue,
            }
        };
        let certificate = match by.certificate(ip) {
            Ok(certificate) => certificate,
            Err(error) => {
                tracing::warn!(%error, "the certificate cannot be renewed");
                continue;
            }
        };
        let fingerprint = certificate.as_ref().map(|c| c.fingerprint.clone());
        if listener.is_none() && fingerprint == at.fingerprint {
            continue;
        }
        at = At { ip, fingerprint };
        if send.send(Moved { listener, certificate }).await.is_err() {
            return;
        }
    }
}

/// How the pages are started.
#[derive(Clone, Copy)]
struct Start {
    with_demo: bool,
    open: bool,
    share: Option<Sharing>,
}

/// Looks every hour whether the copies of the day and the week are there.
fn keep_copies(store: Store) {
    tokio::spawn(async move {
        loop {
            let now = jiff::ZonedDateTime::now().date();
            let week = now.iso_week_date();
            let week = format!("{}-W{:02}", week.year(), week.week());
            match store.nightly(&now.to_string(), &week).await {
                Ok(true) => tracing::info!("a copy of the day was kept"),
                Ok(false) => {}
                Err(error) => tracing::warn!(%error, "no copy of the day could be kept"),
            }
            tokio::time::sleep(Duration::from_secs(3600)).await;
        }
    });
}

fn run(db: &Path, listen: SocketAddr, start: Start) -> Result<(), Failed> {
    let demo = demo_data()?;
    let runtime = tokio::runtime::Runtime::new().context("cannot start")?;
    runtime.block_on(async {
        let store = Store::open(db).await.context("cannot start")?;
        if start.with_demo {
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
        let shared = match start.share {
            Some(share) => Some(share.listens(db).await?),
            None => None,
        };
        let ready = format!("http://{}/", within_reach(address));
        print(&format!("Lake Hour is ready at {ready}\n"))?;
        if let Some(shared) = &shared {
            let at = shared.listener.local_addr().context("cannot tell the address")?;
            let scheme = if shared.certificate.is_some() { "https" } else { "http" };
            print(&format!("Let phones in at {ready}share; they come by {scheme}://{at}/\n"))?;
            match &shared.certificate {
                Some(certificate) => {
                    print(&format!("Its certificate's SHA-256: {}\n", certificate.fingerprint))?;
                }
                None => print("Plain: whoever is in that network can read along.\n")?,
            }
        }
        if start.open
            && let Err(error) = open::that_detached(&ready)
        {
            tracing::warn!(%error, "no browser could be opened: open {ready} yourself");
        }
        if !start.with_demo {
            keep_copies(store.clone());
        }
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
        lake_hour_web::serve(App::new(store, demo), listener, shared, stop)
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
pub(super) async fn stopped() {
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
