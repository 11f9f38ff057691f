//! The certificate of one's own, made when it is needed first, and kept beside the database.

use super::{hex, sha256};
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
    /// The one that is kept in a file; made where there is none. `at` is what it is called by.
    ///
    /// # Errors
    /// When the file cannot be read or written, or holds no certificate.
    pub fn kept(file: &Path, at: IpAddr) -> io::Result<Self> {
        let bad =
            |e: &dyn std::fmt::Display| io::Error::new(io::ErrorKind::InvalidData, e.to_string());
        if !file.exists() {
            let pem = made(at).map_err(|e| bad(&e))?;
            write_for_its_owner(file, &pem)?;
        }
        let pem = fs::read(file)?;
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

fn made(at: IpAddr) -> Result<String, rcgen::Error> {
    let mut params = CertificateParams::new(vec![at.to_string(), "localhost".to_owned()])?;
    // Of nobody's name: it is seen before anyone is let in.
    params.distinguished_name = rcgen::DistinguishedName::new();
    params.distinguished_name.push(rcgen::DnType::CommonName, "localhost");
    let key = KeyPair::generate()?;
    let certificate = params.self_signed(&key)?;
    Ok(certificate.pem() + &key.serialize_pem())
}

fn write_for_its_owner(file: &Path, text: &str) -> io::Result<()> {
    let mut options = fs::File::options();
    options.write(true).create_new(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut options, 0o600);
    let mut file = options.open(file)?;
    file.write_all(text.as_bytes())?;
    file.sync_all()
}

/// This machine's own address in the network it is in; nothing is sent to find it. `None` where it is in none of its owner's.
pub fn own_address() -> Option<IpAddr> {
    // Documentation addresses, RFC 5737: a way to them is looked up, and nobody is there.
    let socket = UdpSocket::bind("0.0.0.0:0").ok()?;
    socket.connect("192.0.2.1:9").ok()?;
    let ip = socket.local_addr().ok().map(|at: SocketAddr| at.ip())?;
    (super::is_near(ip) && !ip.is_loopback()).then_some(ip)
}
