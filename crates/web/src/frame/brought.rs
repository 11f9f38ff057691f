//! A copy of all data that was sent to be brought back: held until its sender says so, or another comes.

use lake_hour_store::backup::{self, Sound};
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};

/// One copy, sound, in a file of its own that goes with it.
#[derive(Debug)]
pub(crate) struct Copy {
    /// By which its page asks for it.
    pub(crate) token: u64,
    /// As its sender calls it.
    pub(crate) name: String,
    pub(crate) sound: Sound,
    path: PathBuf,
}

impl Copy {
    pub(crate) fn path(&self) -> &Path {
        &self.path
    }
}

impl Drop for Copy {
    fn drop(&mut self) {
        backup::discard(&self.path);
    }
}

#[derive(Debug, Default)]
struct Held {
    given: u64,
    copy: Option<Arc<Copy>>,
}

/// The one that was sent last.
#[derive(Debug, Clone, Default)]
pub(crate) struct Brought(Arc<Mutex<Held>>);

impl Brought {
    /// Holds a copy in the place of the one before; its token.
    pub(crate) fn hold(&self, name: String, sound: Sound, path: PathBuf) -> Arc<Copy> {
        let mut held = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        held.given += 1;
        let copy = Arc::new(Copy { token: held.given, name, sound, path });
        held.copy = Some(Arc::clone(&copy));
        copy
    }

    /// The one of this token, taken out; `None` where another has come meanwhile.
    pub(crate) fn take(&self, token: u64) -> Option<Arc<Copy>> {
        let mut held = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        held.copy.take_if(|copy| copy.token == token)
    }
}
