//! The second listener, over real connections: who may hold one, who is let in, and what each may do.

use lake_hour_store::Store;
use lake_hour_web::{App, Demo, Moved, Shared};
use std::net::SocketAddr;
use tempfile::TempDir;
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::{mpsc, oneshot};

/// The program with both listeners.
struct Both {
    own: SocketAddr,
    door: SocketAddr,
    moves: mpsc::Sender<Moved>,
    stop: Option<oneshot::Sender<()>>,
    _folder: TempDir,
}

/// An answer as it came, to its end.
struct Told {
    status: u16,
    text: String,
}

impl Told {
    fn header(&self, name: &str) -> Option<&str> {
        let head = self.text.split("\r\n\r\n").next()?;
        head.lines()
            .filter_map(|l| l.split_once(": "))
            .find(|(n, _)| n.eq_ignore_ascii_case(name))
            .map(|(_, v)| v)
    }
}

async fn listener(at: &str) -> TcpListener {
    TcpListener::bind(at).await.unwrap()
}

impl Both {
    async fn start() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(&folder.path().join("a.db")).await.unwrap();
        let demo =
            lake_hour_formats::plan::read(include_bytes!("../../../../demo/heron-pond.plan.json"));
        store.import(demo.unwrap()).await.unwrap();
        let (own, door) = (listener("127.0.0.1:0").await, listener("127.0.0.1:0").await);
        let addresses = (own.local_addr().unwrap(), door.local_addr().unwrap());
        let (moves, moved) = mpsc::channel(1);
        let (stop, stopped) = oneshot::channel::<()>();
        let shared = Shared {
            listener: door,
            certificate: None,
            name: Some("shed.local".to_owned()),
            moves: moved,
        };
        let app = App::new(store, Demo { plans: Vec::new(), shelf: Vec::new() });
        tokio::spawn(lake_hour_web::serve(app, own, Some(shared), async {
            let _ = stopped.await;
        }));
        Self { own: addresses.0, door: addresses.1, moves, stop: Some(stop), _folder: folder }
    }

    async fn asked(
        at: SocketAddr,
        host: &str,
        method: &str,
        path: &str,
        more: &str,
        body: &str,
    ) -> Told {
        let mut link = TcpStream::connect(at).await.unwrap();
        let long = if method == "GET" {
            String::new()
        } else {
            format!(
                "Content-Length: {}\r\nContent-Type: application/x-www-form-urlencoded\r\n",
                body.len()
            )
        };
        let request = format!(
            "{method} {path} HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n{more}{long}\r\n{body}"
        );
        link.write_all(request.as_bytes()).await.unwrap();
        let mut all = Vec::new();
        link.read_to_end(&mut all).await.unwrap();
        let text = String::from_utf8_lossy(&all).into_owned();
        Told { status: text.split(' ').nth(1).and_then(|s| s.parse().ok()).unwrap_or(0), text }
    }

    async fn own(&self, method: &str, path: &str, body: &str) -> Told {
        Self::asked(self.own, &self.own.to_string(), method, path, "", body).await
    }

    async fn door(&self, method: &str, path: &str, cookie: &str, body: &str) -> Told {
        let more = if cookie.is_empty() { String::new() } else { format!("Cookie: {cookie}\r\n") };
        Self::asked(self.door, &self.door.to_string(), method, path, &more, body).await
    }

    async fn code(&self) -> String {
        let page = self.own("GET", "/share", "").await.text;
        let digits = page.split("id=\"share-code\">").nth(1).unwrap().split('<').next().unwrap();
        digits.replace(' ', "")
    }

    /// Types the right code; the cookie.
    async fn joins(&self, name: &str) -> String {
        let told = self
            .door("POST", "/join", "", &format!("code={}&name={name}", self.code().await))
            .await;
        assert_eq!(told.status, 303, "{}", told.text);
        told.header("set-cookie").unwrap().split(';').next().unwrap().to_owned()
    }

    /// Joins and is let in.
    async fn paired(&self, n: u64, role: &str) -> String {
        let cookie = self.joins(role).await;
        let yes = self
            .own("POST", &format!("/share/waiting/{n}/let-in"), &format!("name={role}&role={role}"))
            .await;
        assert_eq!(yes.status, 303, "{}", yes.text);
        cookie
    }
}

impl Drop for Both {
    fn drop(&mut self) {
        let _ = self.stop.take().map(|stop| stop.send(()));
    }
}

/// Stalled requests of strangers make room for whoever comes next, and the machine's own pages answer meanwhile.
#[tokio::test]
async fn strangers_hold_no_connection_for_long() {
    let both = Both::start().await;
    let mut stalled = Vec::new();
    for n in 0..200 {
        let mut link = TcpStream::connect(both.door).await.unwrap();
        let begun = if n % 2 == 0 {
            format!("POST /join HTTP/1.1\r\nHost: {}\r\nContent-Length: 30\r\n\r\n", both.door)
        } else {
            "GET / HT".to_owned()
        };
        link.write_all(begun.as_bytes()).await.unwrap();
        stalled.push(link);
        if n % 50 == 49 {
            assert_eq!(both.own("GET", "/rigs/1/rig", "").await.status, 200);
            assert_eq!(both.door("GET", "/", "", "").await.status, 200);
        }
    }
    // The oldest were sent away: nothing more comes from there, not by a limit of time.
    for link in &mut stalled[..130] {
        let mut rest = Vec::new();
        let _ = link.read_to_end(&mut rest).await;
        assert!(rest.is_empty());
    }
    // A device that was let in keeps its connection while others come and go.
    let cookie = both.paired(1, "log").await;
    let mut known = TcpStream::connect(both.door).await.unwrap();
    let ask = format!("GET /healthz HTTP/1.1\r\nHost: {}\r\nCookie: {cookie}\r\n\r\n", both.door);
    for _ in 0..3 {
        known.write_all(ask.as_bytes()).await.unwrap();
        let mut answer = [0; 2048];
        let long = known.read(&mut answer).await.unwrap();
        assert!(answer[..long].starts_with(b"HTTP/1.1 200"));
        for _ in 0..40 {
            stalled.push(TcpStream::connect(both.door).await.unwrap());
        }
    }
}

/// While others guess, the right code works; it lets nobody in before a yes, and a no is told.
#[tokio::test]
async fn the_right_code_and_a_yes_let_a_device_in() {
    let both = Both::start().await;
    for _ in 0..60 {
        let wrong = both.door("POST", "/join", "", "code=1").await;
        assert!(matches!(wrong.status, 403 | 429));
    }
    let cookie = both.joins("Deck").await;
    assert!(both.door("GET", "/", &cookie, "").await.header("refresh").is_some());
    assert_eq!(both.door("GET", "/rigs/1/board", &cookie, "").await.status, 404);
    let page = both.own("GET", "/share", "").await.text;
    assert!(page.contains("Deck wants in") && page.contains("/share/waiting/1/let-in"));
    assert_eq!(both.own("POST", "/share/waiting/1/refuse", "").await.status, 303);
    assert_eq!(both.door("GET", "/", &cookie, "").await.status, 403);
    assert_eq!(both.own("POST", "/share/waiting/1/let-in", "role=log").await.status, 404);
    let cookie = both.joins("Deck").await;
    assert_eq!(both.own("POST", "/share/waiting/2/let-in", "role=captain").await.status, 400);
    assert_eq!(both.own("POST", "/share/waiting/2/let-in", "role=everything").await.status, 303);
    assert_eq!(both.door("GET", "/rigs/1/board", &cookie, "").await.status, 200);
    // Another name and role from then on; shut out, it is told nothing any more.
    assert_eq!(both.own("POST", "/share/devices/1", "name=Stern&role=watch").await.status, 303);
    assert!(both.own("GET", "/share", "").await.text.contains("<b>Stern</b>"));
    assert_eq!(both.door("GET", "/rigs/1/board", &cookie, "").await.status, 403);
    assert_eq!(both.door("GET", "/", &cookie, "").await.header("location"), Some("/rigs/1/live"));
    both.own("POST", "/share/devices/1/remove", "").await;
    assert_eq!(both.door("GET", "/rigs/1/live", &cookie, "").await.status, 404);
}

#[tokio::test]
async fn what_each_role_may_do_over_the_wire() {
    let both = Both::start().await;
    let log = both.paired(1, "log").await;
    let all = both.paired(2, "everything").await;
    for path in ["/data", "/share", "/share/events", "/data/lake-hour-backup.db"] {
        assert_eq!(both.door("GET", path, &all, "").await.status, 404, "{path}");
    }
    assert_eq!(both.door("POST", "/data/delete", &all, "word=delete").await.status, 404);
    assert_eq!(
        both.door("POST", "/rigs/1/stretches", &log, "kind=idle&minutes=10").await.status,
        403
    );
    assert_ne!(
        both.door("POST", "/rigs/1/stretches", &all, "kind=idle&minutes=10").await.status,
        403
    );
    assert_eq!(both.door("GET", "/rigs/1/log", &log, "").await.status, 200);
    // Whether a file is there is told to nobody but whoever sits at the machine.
    let form = "source=file&path=%2Fetc%2Fhostname&back=straight&start=";
    let refused = both.door("POST", "/rigs/1/live/begin", &all, form).await;
    assert!(refused.text.contains("named at the machine itself"), "{}", refused.status);
    let none =
        both.door("POST", "/rigs/1/live/begin", &all, "source=file&path=%2Fno&back=straight").await;
    assert!(none.text.contains("named at the machine itself"));
}

/// Whoever was not let in learns nothing from how he is refused.
#[tokio::test]
async fn the_closed_door_says_nothing() {
    let both = Both::start().await;
    let mut bare = Vec::new();
    for (method, path) in [
        ("GET", "/rigs/1/board"),
        ("POST", "/healthz"),
        ("DELETE", "/rigs"),
        ("GET", "/nothing"),
        ("OPTIONS", "/"),
    ] {
        let told = both.door(method, path, "", "").await;
        assert_eq!((told.status, told.header("allow")), (404, None), "{method} {path}");
        let dated = told.text.lines().filter(|line| !line.starts_with("date:"));
        bare.push(dated.collect::<Vec<_>>().join("\n"));
    }
    bare.dedup();
    assert_eq!(bare.len(), 1, "{bare:#?}");
    // Two names for one host, at either listener.
    let twice = format!("Host: {}\r\n", both.door);
    assert_eq!(
        Both::asked(both.door, &both.door.to_string(), "GET", "/", &twice, "").await.status,
        404
    );
    let twice = format!("Host: {}\r\n", both.own);
    assert_eq!(
        Both::asked(both.own, &both.own.to_string(), "GET", "/rigs", &twice, "").await.status,
        421
    );
    assert_eq!(both.own("GET", "/rigs", "").await.status, 200);
}

/// The machine is at home in another network: who was let in stays so, by the new address and by name; the page says both.
#[tokio::test]
async fn another_address_is_followed_without_pairing_anew() {
    let both = Both::start().await;
    let cookie = both.paired(1, "log").await;
    let other = listener("127.0.0.2:0").await;
    let there = other.local_addr().unwrap();
    both.moves.send(Moved { listener: Some(other), certificate: None }).await.unwrap();
    let more = format!("Cookie: {cookie}\r\n");
    assert_eq!(
        Both::asked(there, &there.to_string(), "GET", "/rigs/1/log", &more, "").await.status,
        200
    );
    let named = format!("shed.local:{}", there.port());
    assert_eq!(Both::asked(there, &named, "GET", "/rigs/1/log", &more, "").await.status, 200);
    assert_eq!(
        Both::asked(there, "elsewhere.local", "GET", "/rigs/1/log", &more, "").await.status,
        421
    );
    let page = both.own("GET", "/share", "").await.text;
    assert!(page.contains(&format!("http://{there}")) && page.contains(&format!("http://{named}")));
    // By its name a code is taken too.
    let code = format!("code={}", both.code().await);
    assert_eq!(Both::asked(there, &named, "POST", "/join", "", &code).await.status, 303);
    assert!(TcpStream::connect(both.door).await.is_err(), "the first address is left");
}
