//! The code that lets a device in: once, for ten minutes, and not by trying.

use ring::rand::{SecureRandom, SystemRandom};

/// Digits of a code: a billion of them, against six tries a minute.
const DIGITS: usize = 9;
/// It holds for so long. [s]
const HOLDS: i64 = 600;
/// Tries in a minute, and wrong ones until it is another.
const TRIES: u32 = 6;
const WRONG: u32 = 10;

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
    made: i64,
    wrong: u32,
    /// The minute that is counted, and its tries.
    minute: (i64, u32),
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
    pub(super) fn new(now: i64) -> Self {
        Self { digits: drawn(), made: now, wrong: 0, minute: (0, 0) }
    }

    /// As it is shown to its owner; another one where it is too old.
    pub(super) fn now(&mut self, now: i64) -> String {
        if now - self.made >= HOLDS || now < self.made {
            self.renew(now);
        }
        self.digits.clone()
    }

    fn renew(&mut self, now: i64) {
        (self.digits, self.made, self.wrong) = (drawn(), now, 0);
    }

    /// Somebody tries one.
    pub(super) fn tried(&mut self, typed: &str, now: i64) -> Tried {
        let minute = now.div_euclid(60);
        if self.minute.0 != minute {
            self.minute = (minute, 0);
        }
        self.minute.1 += 1;
        if self.minute.1 > TRIES {
            return Tried::TooOften;
        }
        let holds = now - self.made < HOLDS && now >= self.made;
        if holds && same(typed.as_bytes(), self.digits.as_bytes()) {
            // Once only.
            self.renew(now);
            return Tried::Right;
        }
        self.wrong += 1;
        if self.wrong >= WRONG {
            self.renew(now);
        }
        Tried::Wrong
    }
}

/// Compared in the same time whatever differs.
fn same(a: &[u8], b: &[u8]) -> bool {
    a.len() == b.len() && a.iter().zip(b).fold(0, |all, (x, y)| all | (x ^ y)) == 0
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_code_holds_once_for_ten_minutes_and_not_by_trying() {
        let mut code = Code::new(1000);
        let digits = code.now(1000);
        assert!(digits.len() == DIGITS && digits.bytes().all(|b| b.is_ascii_digit()));
        assert_eq!(code.tried("", 1001), Tried::Wrong);
        assert_eq!(code.tried(&digits, 1002), Tried::Right);
        assert_eq!(code.tried(&digits, 1003), Tried::Wrong, "once only");
        let digits = code.now(1003);
        assert_eq!(code.tried(&digits, 1003 + HOLDS), Tried::Wrong, "too old");
        let digits = code.now(3000);
        for _ in 0..TRIES {
            assert_eq!(code.tried("123", 3000), Tried::Wrong);
        }
        assert_eq!(code.tried(&digits, 3001), Tried::TooOften, "even the right one");
        assert_eq!(code.tried(&digits, 3061), Tried::Right);
        let digits = code.now(4000);
        for n in 0..i64::from(WRONG) {
            assert_eq!(code.tried("123", 4000 + n * 60), Tried::Wrong);
        }
        assert_eq!(code.tried(&digits, 4599), Tried::Wrong, "tried too often: it is another one");
        // A clock that was set back makes none hold for ever.
        let digits = code.now(9000);
        assert_eq!(code.tried(&digits, 8000), Tried::Wrong);
    }
}
