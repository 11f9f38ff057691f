//! Files of any length that are read piece by piece: no piece may be so long that it fills the memory.

use std::cell::Cell;
use std::io::Read;
use std::rc::Rc;

/// Hands out no more bytes than one piece may have before the next is begun, and counts them.
pub(crate) struct Metered<R> {
    inner: R,
    /// What one piece is called, and how long it may be. [bytes]
    piece: (&'static str, u64),
    left: Rc<Cell<u64>>,
    given: Rc<Cell<u64>>,
}

impl<R> Metered<R> {
    pub(crate) fn new(inner: R, what: &'static str, longest: u64) -> Self {
        let (left, given) = (Rc::new(Cell::new(longest)), Rc::new(Cell::new(0)));
        Self { inner, piece: (what, longest), left, given }
    }

    /// To be called where a piece begins.
    pub(crate) fn refill(&self) -> impl Fn() + use<R> {
        let (left, longest) = (Rc::clone(&self.left), self.piece.1);
        move || left.set(longest)
    }

    /// Bytes that were read until now.
    pub(crate) fn given(&self) -> impl Fn() -> u64 + use<R> {
        let given = Rc::clone(&self.given);
        move || given.get()
    }
}

impl<R: Read> Read for Metered<R> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        if self.left.get() == 0 {
            let says = format!("{} is longer than {} kB", self.piece.0, self.piece.1 >> 10);
            return Err(std::io::Error::new(std::io::ErrorKind::FileTooLarge, says));
        }
        let n = self.inner.read(into)?;
        self.left.set(self.left.get().saturating_sub(n as u64));
        self.given.set(self.given.get() + n as u64);
        Ok(n)
    }
}
