//! The certificate of one's own, made when it is needed first, and kept beside the database.

use super::{hex, sha256};
use crate::frame::trips::is_near;
use rcgen::{CertificateParams, KeyPair};
use std::fs;
use std::io::{self, Write};
use std::net::{IpAddr, SocketAddr, UdpSocket};
use std::path::Path;
use std::sync::Arc;
use tokio_rustls::TlsAcceptor;
use tokio_rustls::rustls::ServerConfig;
use tokio_rustls::rustls::pki_types::pem::PemObject;
use tokio_rustls::rustls::pki_types::{CertificateDer, PrivateKeyDer};
use x509_parser::extensions::GeneralName;

/// A certificate with its key, ready to be served by.
#[derive(Clone)]
pub struct Certificate {
    /// SHA-256 of it, as browsers show it.
    pub fingerprint: String,
    pub(crate) acceptor: TlsAcceptor,
}

impl std::fmt::Debug for Certificate {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Certificate")
            .field("fingerprint", &self.fingerprint)
            .finish_non_exhaustive()
    }
}

impl Certificate {
    /// The one that is kept in a file; made anew where there is none, where it will not hold for another month, or where it does
    /// not name `at`, which it is called by, and `name`.
    ///
    /// # Errors
    /// When the file cannot be read or written, or holds no certificate.
    pub fn kept(file: &Path, at: IpAddr, name: Option<&str>) -> io::Result<Self> {
        let mut pem = if file.exists() { fs::read(file)? } else { Vec::new() };
        let now = jiff::Timestamp::now().as_second();
        let holds = Held::read(&pem).is_some_and(|held| held.will_do(at, name, now));
        if !holds {
            let before = Held::read(&pem).map(|held| held.addresses).unwrap_or_default();
            pem = made(at, name, before, now).map_err(|e| bad(&e))?.into_bytes();
            write_for_its_owner(file, &pem)?;
        }
        let certificate = CertificateDer::from_pem_slice(&pem).map_err(|e| bad(&e))?;
        let key = PrivateKeyDer::from_pem_slice(&pem).map_err(|e| bad(&e))?;
        let sum = hex(&sha256(&certificate)).to_uppercase();
        let pairs: Vec<String> =
            sum.as_bytes().chunks(2).map(|p| String::from_utf8_lossy(p).into_owned()).collect();
        let provider = Arc::new(tokio_rustls::rustls::crypto::ring::default_provider());
        let config = ServerConfig::builder_with_provider(provider)
            .with_safe_default_protocol_versions()
            .map_err(|e| bad(&e))?
            .with_no_client_auth()
            .with_single_cert(vec![certificate], key)
            .map_err(|e| bad(&e))?;
        Ok(Self { fingerprint: pairs.join(":"), acceptor: TlsAcceptor::from(Arc::new(config)) })
    }
}

fn bad(e: &dyn std::fmt::Display) -> io::Error {
    io::Error::new(io::ErrorKind::InvalidData, e.to_string())
}

/// What a certificate says.
#[derive(Debug, Default, PartialEq, Eq)]
struct Held {
    addresses: Vec<IpAddr>,
    names: Vec<String>,
    /// Seconds since 1970.
    from: i64,
    until: i64,
    /// Made to identify a server, and no authority.
    of_a_server: bool,
}

impl Held {
    fn read(pem: &[u8]) -> Option<Self> {
        let der = CertificateDer::from_pem_slice(pem).ok()?;
        let (_, x) = x509_parser::parse_x509_certificate(&der).ok()?;
        let mut held = Self {
            from: x.validity().not_before.timestamp(),
            until: x.validity().not_after.timestamp(),
            of_a_server: x.extended_key_usage().ok()?.is_some_and(|e| e.value.server_auth)
                && x.key_usage().ok()?.is_some_and(|k| k.value.digital_signature())
                && !x.is_ca(),
            ..Self::default()
        };
        for name in &x.subject_alternative_name().ok()??.value.general_names {
            match name {
                GeneralName::DNSName(name) => held.names.push((*name).to_owned()),
                GeneralName::IPAddress([a, b, c, d]) => {
                    held.addresses.push(IpAddr::from([*a, *b, *c, *d]));
                }
                GeneralName::IPAddress(bytes) => {
                    held.addresses.extend(<[u8; 16]>::try_from(*bytes).ok().map(IpAddr::from));
                }
                _ => {}
            }
        }
        Some(held)
    }

    fn will_do(&self, at: IpAddr, name: Option<&str>, now: i64) -> bool {
        self.of_a_server
            && self.addresses.contains(&at)
            && name.is_none_or(|name| self.names.iter().any(|n| n == name))
            && (self.from..self.until - RENEWED).contains(&now)
            && self.until - self.from < LONGEST
    }
}

/// A certificate holds for less than 398 days (CA/Browser Forum, Baseline Requirements 6.3.2, as browsers ask it), from a day before
/// it was made, as clocks differ. [s]
const LONGEST: i64 = 398 * DAY;
const HOLDS: i64 = 390 * DAY;
/// It is made anew so long before it ends. [s]
const RENEWED: i64 = 30 * DAY;
const DAY: i64 = 86_400;
/// Addresses that it was called by before and still names.
const MOST_BEFORE: usize = 7;

fn made(
    at: IpAddr,
    name: Option<&str>,
    before: Vec<IpAddr>,
    now: i64,
) -> Result<String, rcgen::Error> {
    let mut addresses = vec![at];
    addresses.extend(before.into_iter().filter(|ip| *ip != at).take(MOST_BEFORE));
    let mut called: Vec<String> = addresses.iter().map(IpAddr::to_string).collect();
    called.push("localhost".to_owned());
    called.extend(name.map(str::to_owned));
    let mut params = CertificateParams::new(called)?;
    // Of nobody's name: it is seen before anyone is let in.
    params.distinguished_name = rcgen::DistinguishedName::new();
    params.distinguished_name.push(rcgen::DnType::CommonName, "localhost");
    params.is_ca = rcgen::IsCa::ExplicitNoCa;
    params.key_usages = vec![rcgen::KeyUsagePurpose::DigitalSignature];
    params.extended_key_usages = vec![rcgen::ExtendedKeyUsagePurpose::ServerAuth];
    let day = |at: i64| {
        let date = jiff::Timestamp::from_second(at).unwrap_or_default();
        let date = jiff::tz::TimeZone::UTC.to_datetime(date).date();
        rcgen::date_time_ymd(
            date.year().into(),
            date.month().cast_unsigned(),
            date.day().cast_unsigned(),
        )
    };
    (params.not_before, params.not_after) = (day(now - DAY), day(now - DAY + HOLDS));
    let key = KeyPair::generate()?;
    let certificate = params.self_signed(&key)?;
    Ok(certificate.pem() + &key.serialize_pem())
}

/// Whole or not at all, and read by its owner only.
fn write_for_its_owner(file: &Path, text: &[u8]) -> io::Result<()> {
    let mut part = file.as_os_str().to_owned();
    part.push(".part");
    let part = Path::new(&part);
    let mut options = fs::File::options();
    options.write(true).create(true).truncate(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut options, 0o600);
    let mut opened = options.open(part)?;
    opened.write_all(text)?;
    opened.sync_all()?;
    fs::rename(part, file)
}

/// What this machine is called in its network: names under "local" are found without a server (RFC 6762). `None` where its name is
/// no such name.
pub fn own_name() -> Option<String> {
    let name = gethostname::gethostname().into_string().ok()?.to_ascii_lowercase();
    let label = name.split('.').next().unwrap_or_default();
    let is_label = (1..=63).contains(&label.len())
        && label.bytes().all(|b| b.is_ascii_alphanumeric() || b == b'-')
        && !label.starts_with('-')
        && label != "localhost";
    is_label.then(|| format!("{label}.local"))
}

/// This machine's own address in the network it is in; nothing is sent to find it. `None` where it is in none of its owner's.
pub fn own_address() -> Option<IpAddr> {
    // Documentation addresses, RFC 5737: a way to them is looked up, and nobody is there.
    let socket = UdpSocket::bind("0.0.0.0:0").ok()?;
    socket.connect("192.0.2.1:9").ok()?;
    let ip = socket.local_addr().ok().map(|at: SocketAddr| at.ip())?;
    (is_near(ip) && !ip.is_loopback()).then_some(ip)
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::net::Ipv4Addr;

    const HOME: IpAddr = IpAddr::V4(Ipv4Addr::new(192, 168, 1, 5));
    const CLUB: IpAddr = IpAddr::V4(Ipv4Addr::new(10, 0, 0, 7));

    fn held(file: &Path) -> Held {
        Held::read(&fs::read(file).expect("the file")).expect("a certificate")
    }

    /// RFC 5280, 4.2.1.3, 4.2.1.6, 4.2.1.12: read by a parser that is none of ours.
    #[test]
    fn a_certificate_says_what_it_is_for_and_is_made_anew_in_time() {
        let folder = tempfile::tempdir().expect("a folder");
        let file = folder.path().join("a.pem");
        let first = Certificate::kept(&file, HOME, Some("shed.local")).expect("made");
        let is = held(&file);
        assert!(
            is.of_a_server && is.addresses == [HOME] && is.names == ["localhost", "shed.local"]
        );
        assert!(is.until - is.from < LONGEST && is.until - is.from > 380 * DAY);
        let again = |at, name| Certificate::kept(&file, at, name).expect("kept").fingerprint;
        assert_eq!(again(HOME, Some("shed.local")), first.fingerprint);
        assert_eq!(again(HOME, None), first.fingerprint);
        // Another address or name: it is made anew, and still names the first.
        let moved = again(CLUB, Some("shed.local"));
        assert_ne!(moved, first.fingerprint);
        assert_eq!(held(&file).addresses, [CLUB, HOME]);
        assert_eq!(again(HOME, None), moved);
        // Soon over, or from a clock that was wrong.
        let now = jiff::Timestamp::now().as_second();
        for made_at in [now - 365 * DAY, now + 400 * DAY] {
            fs::write(&file, made(CLUB, None, Vec::new(), made_at).expect("made"))
                .expect("written");
            assert!(!held(&file).will_do(CLUB, None, now));
            again(CLUB, None);
            assert!(held(&file).will_do(CLUB, None, now));
        }
        // As it was made before: without what it is for, and for too long.
        let old = rcgen::generate_simple_self_signed(vec!["localhost".to_owned()]).expect("made");
        fs::write(&file, old.cert.pem() + &old.signing_key.serialize_pem()).expect("written");
        again(CLUB, None);
        assert!(held(&file).of_a_server);
        fs::write(&file, "no certificate").expect("written");
        again(HOME, None);
        #[cfg(unix)]
        {
            use std::os::unix::fs::PermissionsExt;
            let mode = fs::metadata(&file).expect("there").permissions().mode();
            assert_eq!(mode & 0o777, 0o600);
        }
    }
}
