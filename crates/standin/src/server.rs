//! The stand-in as a Signal K server: JSON over a WebSocket, on loopback.

use crate::sim::{Moment, Reads, Sim};
use futures_util::{SinkExt, StreamExt};
use serde_json::{Value, json};
use std::io::Write;
use std::net::SocketAddr;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::{broadcast, oneshot};
use tokio_tungstenite::tungstenite::handshake::server::{ErrorResponse, Request, Response};
use tokio_tungstenite::tungstenite::protocol::WebSocketConfig;
use tokio_tungstenite::tungstenite::{Message, http::StatusCode};

/// Where a Signal K server streams.
const PATH: &str = "/signalk/v1/stream";
/// So often at the most something is told, whatever the speed. [1/s]
const OFTEN: f64 = 20.0;
/// Largest message that is taken. [bytes]
const LARGEST: usize = 64 * 1024;
/// It goes on for so long after it is home. [s]
const LINGERS: f64 = 1800.0;

/// How fast a day is played: 1 is as it is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Speed(f64);

impl Speed {
    /// From 0.1 to 3600 times.
    pub fn of(times: f64) -> Option<Self> {
        (0.1..=3600.0).contains(&times).then_some(Self(times))
    }
}

/// A stand-in that plays; it ends when this is let go.
#[derive(Debug)]
pub struct Playing {
    /// Where it streams, as in `ws://127.0.0.1:3000/signalk/v1/stream`.
    pub address: String,
    stop: Option<oneshot::Sender<()>>,
}

impl Drop for Playing {
    fn drop(&mut self) {
        if let Some(stop) = self.stop.take() {
            let _ = stop.send(());
        }
    }
}

/// Plays a day on a listener, from when somebody listens first. The truth is written line by line to `truth`.
///
/// # Errors
/// When the listener has no address.
pub fn serve(
    sim: Sim,
    listener: TcpListener,
    speed: Speed,
    truth: Option<Box<dyn Write + Send>>,
) -> std::io::Result<Playing> {
    let address = format!("ws://{}{PATH}", listener.local_addr()?);
    let (stop, stopped) = oneshot::channel();
    tokio::spawn(async move {
        tokio::select! {
            () = run(sim, listener, speed, truth) => {}
            _ = stopped => {}
        }
    });
    Ok(Playing { address, stop: Some(stop) })
}

async fn run(
    sim: Sim,
    listener: TcpListener,
    speed: Speed,
    mut truth: Option<Box<dyn Write + Send>>,
) {
    let (tells, _) = broadcast::channel::<Arc<str>>(256);
    let sim = Arc::new(Mutex::new(sim));
    if let Some(file) = &mut truth {
        let about = sim.lock().unwrap_or_else(PoisonError::into_inner).truth().clone();
        let line = json!({
            "wind": about.wind, "drag": about.drag, "draw": about.draw, "units": about.units,
            "shape": [about.shape.0, about.shape.1], "resistance": about.resistance, "charge": about.charge, "zero_a": about.zero,
            "bias_v": about.bias,
        });
        let _ = writeln!(file, "{line}");
    }
    let (listened, mut first) = tokio::sync::watch::channel(false);
    let plays = play(Arc::clone(&sim), tells.clone(), speed, truth);
    let takes = async {
        loop {
            let Ok((stream, from)) = listener.accept().await else {
                tokio::time::sleep(Duration::from_millis(100)).await;
                continue;
            };
            let _ = listened.send(true);
            let (hears, sim) = (tells.subscribe(), Arc::clone(&sim));
            tokio::spawn(async move {
                if let Err(error) = answer(stream, from, hears, sim, speed).await {
                    tracing::debug!(%error, "a listener of the stand-in is gone");
                }
            });
        }
    };
    let plays = async {
        let _ = first.wait_for(|listened| *listened).await;
        plays.await;
        std::future::pending::<()>().await;
    };
    tokio::join!(takes, plays);
}

/// The day, second by second, or in longer steps where it is played fast.
async fn play(
    sim: Arc<Mutex<Sim>>,
    tells: broadcast::Sender<Arc<str>>,
    speed: Speed,
    mut truth: Option<Box<dyn Write + Send>>,
) {
    let step = (speed.0 / OFTEN).max(1.0).round();
    let mut ticks = tokio::time::interval(Duration::from_secs_f64(step / speed.0));
    ticks.set_missed_tick_behavior(tokio::time::MissedTickBehavior::Delay);
    let mut home = 0.0;
    let begun = jiff::Timestamp::now();
    while home < LINGERS {
        ticks.tick().await;
        let (moment, homeward) = {
            let mut sim = sim.lock().unwrap_or_else(PoisonError::into_inner);
            (sim.step(step), sim.is_homeward())
        };
        if moment.home || moment.stopped {
            home += step;
        }
        if let Some(file) = &mut truth {
            let (lat, lon) = moment.place.degrees();
            let line = json!({
                "at_s": moment.at, "charge": moment.charge, "amps": moment.amps,
                "volts": moment.volts, "far_m": moment.far.value(), "speed_mps": moment.speed,
                "latitude": lat, "longitude": lon, "home": moment.home,
                "stopped": moment.stopped, "homeward": homeward,
            });
            let _ = writeln!(file, "{line}").and_then(|()| file.flush());
        }
        let at = begun + jiff::SignedDuration::from_secs_f64(moment.at);
        for delta in deltas(&moment, at) {
            let _ = tells.send(delta.to_string().into());
        }
    }
}

/// What a server tells of a moment: most values in one delta, each unit's volts in one of its own.
fn deltas(moment: &Moment, at: jiff::Timestamp) -> Vec<Value> {
    let Some(Reads { volts, amps, units, meter, warm, place, speed }) = &moment.told else {
        return Vec::new();
    };
    let (lat, lon) = place.degrees();
    let value = |path: &str, value: Value| json!({"path": path, "value": value});
    let delta = |values: Vec<Value>| {
        json!({"context": SELF, "updates": [
            {"$source": "stand-in.monitor", "timestamp": at.to_string(), "values": values}]})
    };
    let whole = delta(vec![
        value("electrical.batteries.traction.voltage", json!(rounded(*volts, 1000.0))),
        // There, what charges is positive.
        value("electrical.batteries.traction.current", json!(rounded(-amps, 100.0))),
        value("electrical.batteries.traction.temperature", json!(rounded(warm + 273.15, 100.0))),
        value(
            "electrical.batteries.traction.capacity.stateOfCharge",
            json!(rounded(*meter, 1000.0)),
        ),
        value("navigation.position", json!({"latitude": lat, "longitude": lon})),
        value("navigation.speedOverGround", json!(rounded(*speed, 100.0))),
    ]);
    let each = units.iter().enumerate().filter(|_| units.len() > 1).map(|(n, volts)| {
        let path = format!("electrical.batteries.unit{}.voltage", n + 1);
        delta(vec![value(&path, json!(rounded(*volts, 1000.0)))])
    });
    std::iter::once(whole).chain(each).collect()
}

const SELF: &str = "vessels.urn:mrn:signalk:uuid:00000000-0000-4000-8000-00001a4e0007";

fn rounded(value: f64, steps: f64) -> f64 {
    (value * steps).round() / steps
}

#[allow(clippy::result_large_err)]
async fn answer(
    stream: TcpStream,
    from: SocketAddr,
    mut hears: broadcast::Receiver<Arc<str>>,
    sim: Arc<Mutex<Sim>>,
    speed: Speed,
) -> Result<(), Box<tokio_tungstenite::tungstenite::Error>> {
    let only_here = |request: &Request, response: Response| {
        if request.uri().path() == PATH {
            return Ok(response);
        }
        let mut none = ErrorResponse::new(None);
        *none.status_mut() = StatusCode::NOT_FOUND;
        Err(none)
    };
    let config = WebSocketConfig::default().max_message_size(Some(LARGEST));
    let socket = tokio_tungstenite::accept_hdr_async_with_config(stream, only_here, Some(config));
    let mut socket = socket.await.map_err(Box::new)?;
    tracing::debug!(%from, "the stand-in is listened to");
    let hello = json!({
        "name": "lake-hour-stand-in", "version": "1.7.0", "self": SELF,
        "roles": ["master", "main"], "timestamp": jiff::Timestamp::now().to_string(),
        "lakeHourStandIn": {"speed": speed.0},
    });
    socket.send(Message::text(hello.to_string())).await.map_err(Box::new)?;
    loop {
        tokio::select! {
            told = hears.recv() => match told {
                Ok(text) => {
                    socket.send(Message::text(text.as_ref())).await.map_err(Box::new)?;
                }
                // Whoever does not keep up misses something, as with a real one.
                Err(broadcast::error::RecvError::Lagged(_)) => {}
                Err(broadcast::error::RecvError::Closed) => return Ok(()),
            },
            asked = socket.next() => match asked {
                Some(Ok(Message::Text(text))) => obey(&sim, &text),
                Some(Ok(_)) => {}
                Some(Err(error)) => return Err(Box::new(error)),
                None => return Ok(()),
            },
        }
    }
}

/// The one thing that its skipper is told: home, at a setting.
fn obey(sim: &Mutex<Sim>, text: &str) {
    let Ok(asked) = serde_json::from_str::<Value>(text) else { return };
    let told = &asked["lakeHourStandIn"];
    if told["home"] == json!(true) {
        let setting = told["setting"].as_f64().filter(|s| (0.5..=10.0).contains(s));
        sim.lock().unwrap_or_else(PoisonError::into_inner).turn_home(setting);
    }
}
