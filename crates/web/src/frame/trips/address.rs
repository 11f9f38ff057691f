//! Addresses that a source may have: only what was typed, and only on this machine or the owner's own network.

use axum::http::Uri;
use std::net::{IpAddr, SocketAddr};

/// Where a Signal K server streams, as its specification has it.
const PATH: &str = "/signalk/v1/stream";
/// Its usual port.
const PORT: u16 = 3000;
/// Longest address. [bytes]
const LONGEST: usize = 200;

const EXAMPLE: &str = "as in 192.168.1.20:3000 or boat.local:3000";

/// A source's address that may be asked.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Address {
    pub(crate) host: String,
    pub(crate) port: u16,
    path: String,
}

impl Address {
    /// What was typed: a host with its port, or a whole `ws://` address.
    pub(crate) fn read(typed: &str) -> Result<Self, String> {
        let typed = typed.trim();
        if typed.is_empty() {
            return Err(format!("Type the address of the Signal K server, {EXAMPLE}."));
        }
        if typed.len() > LONGEST || !typed.is_ascii() {
            return Err(format!("That is no address: {EXAMPLE}."));
        }
        let whole = match typed.split_once("://") {
            Some(("ws", _)) => typed.to_owned(),
            Some(("http", rest)) => format!("ws://{rest}"),
            Some(("wss" | "https", _)) => {
                return Err(format!("Only plain ws:// is read, {EXAMPLE}."));
            }
            Some(_) => {
                return Err(format!("Only a Signal K server can be listened to, {EXAMPLE}."));
            }
            None => format!("ws://{typed}"),
        };
        let uri: Uri = whole.parse().map_err(|_| format!("That is no address: {EXAMPLE}."))?;
        let authority = uri.authority().ok_or_else(|| format!("That is no address: {EXAMPLE}."))?;
        if authority.as_str().contains('@') {
            return Err(format!("No name and password in it: {EXAMPLE}."));
        }
        let path = match uri.path() {
            "" | "/" | PATH => PATH.to_owned(),
            _ => {
                return Err(format!(
                    "A Signal K server streams at {PATH}: leave the path away, {EXAMPLE}."
                ));
            }
        };
        let host = authority.host().trim_start_matches('[').trim_end_matches(']').to_owned();
        if host.is_empty() {
            return Err(format!("That is no address: {EXAMPLE}."));
        }
        if let Ok(ip) = host.parse::<IpAddr>()
            && !is_near(ip)
        {
            return Err(far(&host));
        }
        let port = match authority.port() {
            Some(port) => port.as_u16(),
            // A port that is none is no port left away.
            None if authority.as_str().ends_with(|c: char| c.is_ascii_digit())
                && authority.as_str().matches(':').count() == 1 =>
            {
                return Err(format!("Its port must be from 1 to 65535, {EXAMPLE}."));
            }
            None => PORT,
        };
        if port == 0 {
            return Err(format!("Its port must be from 1 to 65535, {EXAMPLE}."));
        }
        Ok(Self { host, port, path })
    }

    /// As it is asked: nothing until it is subscribed to.
    pub(crate) fn uri(&self) -> String {
        let host =
            if self.host.contains(':') { format!("[{}]", self.host) } else { self.host.clone() };
        format!("ws://{host}:{}{}?subscribe=none", self.port, self.path)
    }

    /// As it is shown.
    pub(crate) fn words(&self) -> String {
        format!("{}:{}", self.host, self.port)
    }

    /// Where it is by now. Only what is near is ever connected to, whatever a name server says.
    pub(crate) async fn resolve(&self) -> Result<SocketAddr, String> {
        let found = tokio::net::lookup_host((self.host.as_str(), self.port)).await;
        let mut found = found.map_err(|_| format!("{} is not found", self.host))?;
        found.find(|at| is_near(at.ip())).ok_or_else(|| far(&self.host))
    }
}

fn far(host: &str) -> String {
    format!("{host} is not on this machine or your own network: only those are listened to.")
}

/// On this machine, or in a network of one's own: RFC 1918, 3927, 4193, 4291.
pub(crate) fn is_near(ip: IpAddr) -> bool {
    match ip {
        IpAddr::V4(ip) => ip.is_loopback() || ip.is_private() || ip.is_link_local(),
        IpAddr::V6(ip) => {
            ip.to_ipv4_mapped().is_some_and(|v4| is_near(v4.into()))
                || ip.is_loopback()
                || ip.is_unique_local()
                || ip.is_unicast_link_local()
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_a_signal_k_server_that_is_near_is_an_address() {
        let uri = |typed: &str| Address::read(typed).map(|a| a.uri());
        let stream = |host: &str| Ok(format!("ws://{host}/signalk/v1/stream?subscribe=none"));
        assert_eq!(uri("192.168.1.20"), stream("192.168.1.20:3000"));
        assert_eq!(uri(" 127.0.0.1:8375 "), stream("127.0.0.1:8375"));
        assert_eq!(uri("ws://boat.local:3000/signalk/v1/stream"), stream("boat.local:3000"));
        assert_eq!(uri("http://10.0.0.4/"), stream("10.0.0.4:3000"));
        assert_eq!(uri("[::1]:3000"), stream("[::1]:3000"));
        for refused in [
            "",
            "wss://boat.local",
            "file:///etc/passwd",
            "gopher://10.0.0.1",
            "8.8.8.8",
            "10.0.0.1:0",
            "10.0.0.1:99999",
            "me:secret@10.0.0.1",
            "10.0.0.1/admin",
            "10.0.0.1:3000/a?b=c",
            "a b",
            "169.254.1.1@8.8.8.8",
            "[2001:db8::1]",
            "http://",
            "ü.local",
        ] {
            let says = uri(refused).expect_err(refused);
            assert!(says.ends_with('.') && says.len() > 20, "{refused}: {says}");
        }
    }

    #[tokio::test]
    async fn a_name_that_leads_away_is_not_followed() {
        let here = Address::read("localhost:3000").expect("an address");
        assert!(here.resolve().await.expect("near").ip().is_loopback());
        assert!(!is_near("192.0.2.1".parse().expect("an address")));
        assert!(!is_near("::ffff:8.8.8.8".parse().expect("an address")));
        assert!(is_near("::ffff:10.1.1.1".parse().expect("an address")));
    }
}
