//! `lake-hour backup` and `lake-hour restore`.

use super::serve::usual_db;
use super::{Failed, print};
use anyhow::Context;
use lake_hour_store::backup;
use std::path::{Path, PathBuf};

fn refused(path: &Path, why: &backup::BadCopy) -> Failed {
    Failed::Input(vec![format!("{}: {why}.", path.display())])
}

/// Saves a copy, also while another program serves.
pub(crate) fn back_up(db: Option<PathBuf>, to: &Path) -> Result<(), Failed> {
    let db = usual_db(db)?;
    if !db.is_file() {
        let says = format!(
            "{}: there is no database yet. Start with lake-hour serve, or name one with --db",
            db.display()
        );
        return Err(Failed::Input(vec![says]));
    }
    if to.is_dir() {
        return Err(Failed::Input(vec![format!(
            "{}: is a folder. Name a file, as in lake-hour-backup.db",
            to.display()
        )]));
    }
    let same = |a: &Path, b: &Path| {
        a.canonicalize().ok().is_some_and(|a| b.canonicalize().ok() == Some(a))
    };
    if same(&db, to) {
        return Err(Failed::Input(vec![format!(
            "{}: is the database itself. Name another file",
            to.display()
        )]));
    }
    backup::copy(&db, to).with_context(|| format!("cannot save to {}", to.display()))?;
    let size = std::fs::metadata(to).map_or(0, |m| m.len());
    print(&format!("Saved {} ({} kB)\n", to.display(), size.div_ceil(1024)))
}

/// Puts a copy in the place of the database, after it was looked at.
pub(crate) fn restore(db: Option<PathBuf>, from: &Path) -> Result<(), Failed> {
    let db = usual_db(db)?;
    let aside = backup::set_aside(from, &db).map_err(|e| refused(from, &e))?;
    let done = (|| {
        let sound = backup::look_at(&aside).map_err(|e| refused(from, &e))?;
        let kept = backup::replace(&db, &aside, &lake_hour_web::moment())
            .with_context(|| format!("{} was not restored", db.display()))?;
        Ok::<_, Failed>((sound, kept))
    })();
    backup::discard(&aside);
    let (sound, kept) = done?;
    let kept = kept.map_or_else(String::new, |kept| {
        format!(" What stood there is kept as {}.", kept.display())
    });
    print(&format!(
        "Restored {} and {} to {}.{kept}\n",
        counted(sound.rigs.len(), "rig", "rigs"),
        counted(sound.batteries, "battery", "batteries"),
        db.display()
    ))
}

fn counted(count: usize, one: &str, more: &str) -> String {
    format!("{count} {}", if count == 1 { one } else { more })
}
