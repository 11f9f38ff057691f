//! `lake-hour stand-in`: a simulated boat or cart that speaks Signal K, until Ctrl-C.

use super::serve::{DEMO_PLANS, stopped};
use super::{Failed, print};
use anyhow::Context;
use lake_hour_standin::{NoDay, Sim, Speed, Truth};
use std::io::Write;
use std::net::SocketAddr;
use std::path::Path;
use tokio::net::TcpListener;

pub(crate) fn stand_in(
    plan: Option<&Path>,
    (speed, seed): (f64, u64),
    truth: Option<&Path>,
    listen: SocketAddr,
) -> Result<(), Failed> {
    let refused = |says: &str| Failed::Input(vec![says.to_owned()]);
    if !listen.ip().is_loopback() {
        return Err(refused(
            "--listen: the stand-in streams on this machine only, as in 127.0.0.1:3000",
        ));
    }
    let speed = Speed::of(speed)
        .ok_or_else(|| refused("--speed: must be from 0.1 to 3600 times, as in 60"))?;
    let plan = match plan {
        Some(path) => {
            let bytes = super::evaluate::read(path)?;
            lake_hour_formats::plan::read(&bytes)?
        }
        None => lake_hour_formats::plan::read(DEMO_PLANS[0].2)?,
    };
    let none = |none: NoDay| refused(&none.to_string());
    let pack = plan.packs.first().ok_or_else(|| none(NoDay::NoPack))?;
    let start = plan.day.start_charge.unwrap_or(1.0);
    let sim = Sim::of(&plan, Truth::of(seed, pack, start), seed).map_err(none)?;
    let truth: Option<Box<dyn Write + Send>> = match truth {
        Some(path) => {
            let file = std::fs::File::create(path)
                .with_context(|| format!("cannot write {}", path.display()))?;
            Some(Box::new(file))
        }
        None => None,
    };
    let runtime = tokio::runtime::Runtime::new().context("cannot start")?;
    runtime.block_on(async {
        let listener = TcpListener::bind(listen).await.with_context(|| {
            format!(
                "cannot listen on {listen}: another program may have it; try --listen 127.0.0.1:0"
            )
        })?;
        let playing =
            lake_hour_standin::serve(sim, listener, speed, truth).context("cannot start")?;
        print(&format!("{}\n", playing.address))?;
        stopped().await;
        Ok(())
    })
}
