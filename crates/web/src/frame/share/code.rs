//! The code that lets a device in: once, for ten minutes, and not by trying.
//!
//! Whoever knows it is let in while others guess: a guess costs its own sender, not the owner. What is right is looked for in
//! every try until so many were wrong that chance alone would find it, one in fifty thousand; from then on only from those who
//! have not guessed. What was typed right waits for a yes at the machine itself.

use ring::rand::{SecureRandom, SystemRandom};
use std::collections::VecDeque;
use std::net::IpAddr;

/// Digits of a code: a billion of them.
const DIGITS: usize = 9;
/// It holds for so long. [s]
const HOLDS: u64 = 600;
/// Wrong tries of one peer that are looked at whatever others do.
const OF_ONE: u32 = 10;
/// Wrong tries of all until only those who have not guessed are listened to: two in a hundred thousand of all codes.
const OF_ALL: u32 = 20_000;
/// Peers that are remembered.
const PEERS: usize = 1024;

/// What came of a try.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Tried {
    Right,
    Wrong,
    TooOften,
}

/// The code that holds now, and how often it was tried.
#[derive(Debug)]
pub(super) struct Code {
    digits: String,
    made: u64,
    wrong: u32,
    /// Who tried wrongly, and how often; the newest last.
    peers: VecDeque<(IpAddr, u32)>,
}

/// Digits that nobody can guess: bytes that would favor some are passed over.
fn drawn() -> String {
    let random = SystemRandom::new();
    let mut digits = String::new();
    while digits.len() < DIGITS {
        let mut byte = [0_u8];
        if random.fill(&mut byte).is_err() {
            // Without chance there is no code that holds: this one nobody can type.
            return "-".repeat(DIGITS);
        }
        if byte[0] < 250 {
            digits.push(char::from(b'0' + byte[0] % 10));
        }
    }
    digits
}

impl Code {
    /// Times are seconds of a clock that nobody sets.
    pub(super) fn new(now: u64) -> Self {
        Self { digits: drawn(), made: now, wrong: 0, peers: VecDeque::new() }
    }

    /// As it is shown to its owner; another one where it is too old.
    pub(super) fn now(&mut self, now: u64) -> String {
        if now - self.made >= HOLDS {
            self.renew(now);
        }
        self.digits.clone()
    }

    /// For how much longer it holds. [s]
    pub(super) const fn left(&self, now: u64) -> u64 {
        HOLDS.saturating_sub(now - self.made)
    }

    fn renew(&mut self, now: u64) {
        *self = Self::new(now);
    }

    /// Somebody tries one.
    pub(super) fn tried(&mut self, typed: &str, peer: IpAddr, now: u64) -> Tried {
        let wrong = self.peers.iter().find(|(p, _)| *p == peer).map_or(0, |(_, n)| *n);
        if wrong >= OF_ONE && self.wrong >= OF_ALL {
            return Tried::TooOften;
        }
        let holds = now - self.made < HOLDS;
        if holds && same(typed.as_bytes(), self.digits.as_bytes()) {
            // Once only.
            self.renew(now);
            return Tried::Right;
        }
        self.wrong = self.wrong.saturating_add(1);
        self.peers.retain(|(p, _)| *p != peer);
        if self.peers.len() >= PEERS {
            self.peers.pop_front();
        }
        self.peers.push_back((peer, wrong.saturating_add(1)));
        if wrong >= OF_ONE { Tried::TooOften } else { Tried::Wrong }
    }
}

/// Compared in the same time whatever differs.
fn same(a: &[u8], b: &[u8]) -> bool {
    a.len() == b.len() && a.iter().zip(b).fold(0, |all, (x, y)| all | (x ^ y)) == 0
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::net::Ipv4Addr;

    const fn peer(n: u8) -> IpAddr {
        IpAddr::V4(Ipv4Addr::new(192, 168, 1, n))
    }

    #[test]
    fn a_code_holds_once_for_ten_minutes_and_not_by_trying() {
        let mut code = Code::new(1000);
        let digits = code.now(1000);
        assert!(digits.len() == DIGITS && digits.bytes().all(|b| b.is_ascii_digit()));
        assert_eq!(code.tried("", peer(1), 1001), Tried::Wrong);
        assert_eq!((code.left(1001), code.left(1600), code.left(9000)), (599, 0, 0));
        assert_eq!(code.tried(&digits, peer(1), 1002), Tried::Right);
        assert_eq!(code.tried(&digits, peer(1), 1003), Tried::Wrong, "once only");
        let digits = code.now(1003);
        assert_eq!(code.tried(&digits, peer(1), 1003 + HOLDS), Tried::Wrong, "too old");
        assert_ne!(code.now(1003 + HOLDS), digits);
    }

    /// Guessing keeps nobody else out, not even at the guesser's own address, until it would begin to pay.
    #[test]
    fn the_right_code_works_while_others_guess() {
        let mut code = Code::new(0);
        let digits = code.now(0);
        for n in 0..OF_ALL - 1 {
            let expected = if n < OF_ONE { Tried::Wrong } else { Tried::TooOften };
            assert_eq!(code.tried("123", peer(1), 1), expected, "{n}");
        }
        assert_eq!(code.now(1), digits, "guessing changes nothing of what its owner reads out");
        let mut near =
            Code { digits: digits.clone(), made: 0, wrong: code.wrong, peers: code.peers.clone() };
        assert_eq!(near.tried(&digits, peer(1), 1), Tried::Right, "at the same address");
        assert_eq!(code.tried("123", peer(1), 1), Tried::TooOften);
        assert_eq!(
            code.tried(&digits, peer(1), 1),
            Tried::TooOften,
            "now it is not even looked at"
        );
        assert_eq!(code.tried(&digits, peer(2), 1), Tried::Right, "somebody else");
        // Whoever comes from everywhere is forgotten one by one: no more is kept.
        let mut code = Code::new(0);
        for n in 0..3000_u32 {
            code.tried("123", IpAddr::V4(Ipv4Addr::from(n)), 1);
        }
        assert_eq!((code.peers.len(), code.wrong), (PEERS, 3000));
    }
}
