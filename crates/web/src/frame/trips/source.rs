//! What a trip listens to: a Signal K server, or a file that grows.

use super::address::Address;
use futures_util::{SinkExt, StreamExt};
use lake_hour_core::live::Place;
use lake_hour_formats::monitor::Follow;
use lake_hour_formats::signalk::{self, BatteryTold, Message};
use std::collections::BTreeMap;
use std::io::{Read, Seek, SeekFrom};
use std::path::PathBuf;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};
use tokio::net::TcpStream;
use tokio::sync::{Notify, mpsc};
use tokio_tungstenite::tungstenite::Message as Frame;
use tokio_tungstenite::tungstenite::protocol::WebSocketConfig;

/// Largest message and frame that are taken. [bytes]
const LARGEST: usize = 256 * 1024;
/// Most messages that are looked at in a second; the rest is passed over unread.
const MOST_A_SECOND: u32 = 400;
/// Without a word for so long it is connected to anew.
const MUTE: Duration = Duration::from_secs(45);
/// Longest that a connection may take.
const CONNECTS: Duration = Duration::from_secs(8);
/// Waits between two tries: from the first, doubled, to the longest.
const WAITS: (Duration, Duration) = (Duration::from_secs(1), Duration::from_secs(30));

/// How it is with a source.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub(crate) enum State {
    /// Nothing to listen to.
    #[default]
    None,
    /// On the way.
    Connecting,
    /// It is heard.
    Open,
    /// It is not, for this reason.
    Lost(String),
}

/// The newest of what was told.
#[derive(Debug, Clone, Default)]
pub(crate) struct Latest {
    pub(crate) state: State,
    pub(crate) batteries: BTreeMap<String, BatteryTold>,
    /// Those of them that told something since they were looked at.
    pub(crate) fresh: BTreeMap<String, BatteryTold>,
    pub(crate) place: Option<Place>,
    pub(crate) speed: Option<f64>,
    /// Times as fast as the clock.
    pub(crate) plays: Option<f64>,
    /// Values that could not be read, and messages passed over.
    pub(crate) unreadable: u64,
    pub(crate) passed_over: u64,
}

/// What is shared with whoever listens.
#[derive(Debug, Clone, Default)]
pub(crate) struct Ear {
    latest: Arc<Mutex<Latest>>,
    news: Arc<Notify>,
}

impl Ear {
    pub(crate) fn with<T>(&self, work: impl FnOnce(&mut Latest) -> T) -> T {
        work(&mut self.latest.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// Waits until something new was told.
    pub(crate) async fn news(&self) {
        self.news.notified().await;
    }

    fn is(&self, state: State) {
        self.with(|latest| latest.state = state);
    }

    fn hear(&self, told: signalk::Told) {
        self.with(|latest| {
            latest.unreadable += u64::from(told.unreadable);
            latest.place = told.place.or(latest.place);
            latest.speed = told.speed.or(latest.speed);
            for (id, new) in told.batteries {
                for of in [&mut latest.batteries, &mut latest.fresh] {
                    let known = of.entry(id.clone()).or_default();
                    known.volts = new.volts.or(known.volts);
                    known.amps = new.amps.or(known.amps);
                    known.kelvins = new.kelvins.or(known.kelvins);
                    known.charge = new.charge.or(known.charge);
                }
            }
        });
        self.news.notify_one();
    }
}

/// Something that the source is told: what the stand-in's skipper does.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) enum Tell {
    /// Home, at a setting.
    Home(Option<f64>),
}

/// Listens to a Signal K server for as long as it is let, connecting again and again with longer waits.
pub(crate) async fn listen(address: Address, ear: Ear, mut tells: mpsc::UnboundedReceiver<Tell>) {
    let mut wait = WAITS.0;
    loop {
        ear.is(State::Connecting);
        let begun = Instant::now();
        let why = match connected(&address, &ear, &mut tells).await {
            Ok(()) => "it has hung up".to_owned(),
            Err(why) => why,
        };
        tracing::debug!(%why, "the source is lost");
        ear.is(State::Lost(why));
        // One that held for a while is tried at once again.
        wait = if begun.elapsed() > WAITS.1 { WAITS.0 } else { wait };
        tokio::time::sleep(wait).await;
        wait = (wait * 2).min(WAITS.1);
    }
}

async fn connected(
    address: &Address,
    ear: &Ear,
    tells: &mut mpsc::UnboundedReceiver<Tell>,
) -> Result<(), String> {
    let at = address.resolve().await?;
    let connect = async {
        let stream = TcpStream::connect(at).await.map_err(|_| "nobody answers there".to_owned())?;
        let config = WebSocketConfig::default()
            .max_message_size(Some(LARGEST))
            .max_frame_size(Some(LARGEST))
            .read_buffer_size(64 * 1024);
        // An answer that leads elsewhere is no answer: nothing is followed.
        let socket =
            tokio_tungstenite::client_async_with_config(address.uri(), stream, Some(config));
        socket.await.map_err(|_| "what answers there is no Signal K server".to_owned())
    };
    let connected = tokio::time::timeout(CONNECTS, connect).await;
    let (mut socket, _) = connected.map_err(|_| "it does not answer in time".to_owned())??;
    let asks = socket.send(Frame::text(signalk::subscription())).await;
    asks.map_err(|_| "it has hung up".to_owned())?;
    let mut second = (Instant::now(), 0_u32);
    loop {
        let frame = tokio::select! {
            frame = tokio::time::timeout(MUTE, socket.next()) => frame,
            tell = tells.recv() => {
                let Some(Tell::Home(setting)) = tell else { return Ok(()) };
                let text = serde_json::json!({"lakeHourStandIn": {"home": true, "setting": setting}});
                let _ = socket.send(Frame::text(text.to_string())).await;
                continue;
            }
        };
        let frame = match frame.map_err(|_| "it says nothing any more".to_owned())? {
            None => return Ok(()),
            Some(Err(_)) => {
                return Err("it sent what is no message, or one far too large".to_owned());
            }
            Some(Ok(frame)) => frame,
        };
        let Frame::Text(text) = frame else { continue };
        if second.0.elapsed() >= Duration::from_secs(1) {
            second = (Instant::now(), 0);
        }
        second.1 += 1;
        if second.1 > MOST_A_SECOND {
            ear.with(|latest| latest.passed_over += 1);
            // Others get their turn.
            tokio::task::yield_now().await;
            continue;
        }
        match signalk::read(&text) {
            Some(Message::Hello { plays, .. }) => ear.with(|latest| {
                (latest.state, latest.plays) = (State::Open, plays.or(latest.plays));
            }),
            Some(Message::Delta(told)) => {
                ear.is(State::Open);
                ear.hear(told);
            }
            Some(Message::Other) => ear.is(State::Open),
            None => ear.with(|latest| latest.unreadable += 1),
        }
    }
}

/// How often a file is looked at.
const LOOKS: Duration = Duration::from_secs(1);
/// Most that is read of a file at once: of one that stands there already only the end is looked at. [bytes]
const MOST_READ: u64 = 1 << 20;
/// What its rows are called, where one battery is spoken of.
const OF_FILE: &str = "file";

/// A path that may be read: a table that is there.
pub(crate) fn table(typed: &str) -> Result<PathBuf, String> {
    let example = "as in /home/me/monitor.csv";
    let path = PathBuf::from(typed.trim());
    let end = path.extension().and_then(|e| e.to_str()).map(str::to_ascii_lowercase);
    if !matches!(end.as_deref(), Some("csv" | "txt")) || !path.is_absolute() {
        return Err(format!("Type the whole path of a .csv file on this machine, {example}."));
    }
    match std::fs::metadata(&path) {
        Ok(about) if about.is_file() => Ok(path),
        Ok(_) => Err(format!("That is no file: type the path of a .csv file, {example}.")),
        Err(_) => Err(format!("There is no such file on this machine: {}.", path.display())),
    }
}

/// Follows a table that grows.
pub(crate) async fn follow(path: PathBuf, ear: Ear) {
    let mut table: Option<Follow> = None;
    let mut read_to = 0_u64;
    ear.is(State::Connecting);
    loop {
        let (file, from, known) = (path.clone(), read_to, table.take());
        let step = tokio::task::spawn_blocking(move || grown(&file, from, known)).await;
        match step {
            Ok(Ok((follow, to, newest))) => {
                (table, read_to) = (follow, to);
                if let Some(sample) = newest {
                    ear.is(State::Open);
                    let of = |v: f32| v.is_finite().then_some(f64::from(v));
                    let told = BatteryTold {
                        volts: of(sample.volts),
                        amps: of(sample.amps),
                        kelvins: of(sample.warm).map(|c| c + 273.15),
                        charge: of(sample.share),
                    };
                    let batteries = BTreeMap::from([(OF_FILE.to_owned(), told)]);
                    ear.hear(signalk::Told { batteries, ..signalk::Told::default() });
                }
            }
            Ok(Err(why)) => {
                (table, read_to) = (None, 0);
                ear.is(State::Lost(why));
            }
            Err(_) => ear.is(State::Lost("it could not be read".to_owned())),
        }
        tokio::time::sleep(LOOKS).await;
    }
}

type Grown = (Option<Follow>, u64, Option<lake_hour_formats::monitor::Sample>);

/// What a table has more than before: only whole lines are taken.
fn grown(path: &PathBuf, from: u64, known: Option<Follow>) -> Result<Grown, String> {
    let unread = |_| "the file cannot be read".to_owned();
    let mut file = std::fs::File::open(path).map_err(unread)?;
    let long = file.metadata().map_err(unread)?.len();
    // Shorter than before: it was begun anew.
    let (mut follow, from) = if long < from { (None, 0) } else { (known, from) };
    let mut bytes = Vec::new();
    file.seek(SeekFrom::Start(from)).map_err(unread)?;
    file.take(MOST_READ).read_to_end(&mut bytes).map_err(unread)?;
    let whole = bytes.iter().rposition(|b| *b == b'\n').map_or(0, |n| n + 1);
    if whole == 0 {
        return Ok((follow, from, None));
    }
    let text = String::from_utf8_lossy(&bytes[..whole]).into_owned();
    let rows = match &mut follow {
        Some(_) => text.as_str(),
        None => {
            let (begun, rows) = Follow::begin(&text).map_err(|e| e.to_string())?;
            follow = Some(begun);
            rows
        }
    };
    let newest = follow.as_mut().and_then(|f| f.rows(rows));
    Ok((follow, from + whole as u64, newest))
}
