//! A folder that may only be read, a full disk, a damaged file: all of it can be looked at, nothing is half done, and there is a way back.

use super::full_plan as plan;
use lake_hour_core::shelf::Battery;
use lake_hour_store::backup;
use lake_hour_store::{Change, Figure, Place, Progress, ShelfQuery, Store, StoreError, Trouble};
use std::fs::File;
use std::io::{Seek, SeekFrom, Write};
use std::path::Path;
use std::process::Command;
use std::sync::Arc;

/// A disk of its own, where this user may mount one.
struct Disk(tempfile::TempDir);

impl Disk {
    fn of(size: &str) -> Option<Self> {
        let folder = tempfile::tempdir().unwrap();
        let size = format!("size={size}");
        let mounted = Command::new("mount")
            .args(["-t", "tmpfs", "-o", &size, "tmpfs"])
            .arg(folder.path())
            .output();
        let mounted = mounted.is_ok_and(|done| done.status.success());
        if !mounted {
            eprintln!("SKIPPED: no right to mount here, so there is no disk to fill");
        }
        mounted.then_some(Self(folder))
    }

    fn may_be_written(&self, may: bool) {
        let how = if may { "remount,rw" } else { "remount,ro" };
        assert!(
            Command::new("mount").args(["-o", how]).arg(self.0.path()).status().unwrap().success()
        );
    }
}

impl Drop for Disk {
    fn drop(&mut self) {
        let _ = Command::new("umount").arg("-l").arg(self.0.path()).status();
    }
}

async fn filled(db: &Path) {
    let store = Store::open(db).await.unwrap();
    store.import(plan()).await.unwrap();
    store
        .stock(
            lake_hour_formats::shelf::read(include_bytes!(
                "../../../../demo/heron-pond.shelf.json"
            ))
            .unwrap(),
        )
        .await
        .unwrap();
    store.close().await.unwrap();
}

/// What a change is answered with.
async fn changed(store: &Store) -> Result<(), StoreError> {
    let rig = store.rigs().await.unwrap()[0].id;
    let pack = plan().packs.remove(0);
    store.change(rig, Change::AddPack(Box::new(pack), Place::Last)).await.map(|_| ())
}

async fn packs(store: &Store) -> usize {
    let rig = store.rigs().await.unwrap()[0].id;
    store.board(rig).await.unwrap().plan.packs.len()
}

#[tokio::test]
async fn what_may_only_be_read_is_looked_at_and_tried_again() {
    let Some(disk) = Disk::of("16m") else { return };
    let db = disk.0.path().join("a.db");
    filled(&db).await;
    // Ended as by a lost power line: what is beside the file belongs to it.
    let store = Store::open(&db).await.unwrap();
    changed(&store).await.unwrap();
    let had = packs(&store).await;
    for end in ["", "-wal"] {
        let name = |stem: &str| disk.0.path().join(format!("{stem}{end}"));
        std::fs::copy(name("a.db"), name("b.db")).unwrap();
    }
    store.close().await.unwrap();
    disk.may_be_written(false);
    let store = Store::open(&disk.0.path().join("b.db")).await.unwrap();
    assert_eq!((store.trouble(), store.looks_only()), (Some(Trouble::ReadOnly), true));
    assert_eq!(packs(&store).await, had);
    assert!(matches!(changed(&store).await, Err(StoreError::LooksOnly(Trouble::ReadOnly))));
    assert!(store.nightly("2026-12-02", "2026-W49").await.is_err());
    assert!(store.try_again().await.is_err() && store.looks_only());
    disk.may_be_written(true);
    store.try_again().await.unwrap();
    assert_eq!((store.trouble(), store.looks_only()), (None, false));
    changed(&store).await.unwrap();
    assert_eq!(packs(&store).await, had + 1);
    assert!(Store::open(&disk.0.path().join("b.db")).await.is_err(), "it is held as ever");
    store.close().await.unwrap();
}

/// A file of many batteries and a disk that fills in the middle of it: none of them stays.
#[tokio::test]
async fn a_full_disk_takes_nothing_of_a_file() {
    let Some(disk) = Disk::of("64m") else { return };
    let db = disk.0.path().join("a.db");
    filled(&db).await;
    let store = Store::open(&db).await.unwrap();
    let before = store.batteries().await.unwrap();
    let many = |rows: u32| {
        let mut file = tempfile::tempfile().unwrap();
        writeln!(file, "name,chemistry,nominal_voltage_v,capacity_ah,price").unwrap();
        let all: String =
            (0..rows).map(|n| format!("Reed {n},lfp,12.8,{},200\n", 20 + n % 200)).collect();
        file.write_all(all.as_bytes()).unwrap();
        file.seek(SeekFrom::Start(0)).unwrap();
        file
    };
    let told = |rows: u64| Arc::new(Progress { looked: rows.into(), ..Progress::default() });
    // Known beforehand: it is not begun.
    let refused = store.take_file(many(60_000), told(60_000)).await;
    assert!(
        matches!(refused, Err(StoreError::NoRoom { needs, free }) if needs > free),
        "{refused:?}"
    );
    // The disk fills while it is taken, by somebody else.
    let filler = disk.0.path().join("filler");
    let free = lake_hour_store::room(&db).unwrap();
    let mut file = File::create(&filler).unwrap();
    file.write_all(&vec![1; (free - (20 << 20)) as usize]).unwrap();
    drop(file);
    let failed = store.take_file(many(60_000), told(1)).await;
    assert!(matches!(failed, Err(StoreError::Database(_))), "{failed:?}");
    assert_eq!(store.trouble(), None, "taking it back was a change that went well");
    assert_eq!(store.batteries().await.unwrap(), before);
    assert!(!disk.0.path().join("a.db.room").exists());
    let left = std::fs::read_dir(disk.0.path()).unwrap().count();
    assert!(left <= 6, "{left} files");
    // It is no undo, and one can go on at once.
    std::fs::remove_file(&filler).unwrap();
    changed(&store).await.unwrap();
    let done = store.take_file(many(300), told(300)).await.unwrap();
    assert_eq!(done.added, 300);
    let page = store
        .shelf(ShelfQuery::default(), Figure { rules: String::new(), of: |_: &Battery| None })
        .await
        .unwrap();
    assert_eq!(page.undo.map(|u| Some(u.id)), Some(done.change));
    store.close().await.unwrap();
}

/// A change that the disk has no room for is told, and what was in the way is forgotten with the next one that goes well.
#[tokio::test]
async fn a_full_disk_is_told_until_there_is_room() {
    let Some(disk) = Disk::of("8m") else { return };
    let db = disk.0.path().join("a.db");
    filled(&db).await;
    let store = Store::open(&db).await.unwrap();
    let filler = disk.0.path().join("filler");
    // Filled to the last byte; the write that does not fit is none of ours.
    let _ = std::fs::write(&filler, vec![1; 8 << 20]);
    let mut refused = Ok(());
    for _ in 0..400 {
        refused = changed(&store).await;
        if refused.is_err() {
            break;
        }
    }
    assert!(refused.is_err_and(|e| e.of_disk().is_some()));
    let had = packs(&store).await;
    assert_eq!((store.trouble(), store.looks_only()), (Some(Trouble::Full), false));
    std::fs::remove_file(&filler).unwrap();
    changed(&store).await.unwrap();
    assert_eq!((store.trouble(), packs(&store).await), (None, had + 1));
    store.close().await.unwrap();
    // Begun on a full disk: it is looked at.
    let _ = std::fs::write(&filler, vec![1; 8 << 20]);
    let store = Store::open(&db).await.unwrap();
    assert_eq!(packs(&store).await, had + 1);
    let can = changed(&store).await;
    assert_eq!(can.is_err(), store.trouble() == Some(Trouble::Full));
}

/// Rubbish in the middle of the file: it is noticed before anything is written, and a kept copy takes its place.
#[tokio::test]
async fn a_damaged_file_is_set_aside_for_a_copy() {
    for from in [0, 3] {
        let folder = tempfile::tempdir().unwrap();
        let db = folder.path().join("a.db");
        filled(&db).await;
        let store = Store::open(&db).await.unwrap();
        store.nightly("2026-12-01", "2026-W49").await.unwrap();
        let had = packs(&store).await;
        store.close().await.unwrap();
        // Its pages, the first four or all but the first three; the header stays where the damage begins later.
        let mut file = File::options().write(true).open(&db).unwrap();
        file.seek(SeekFrom::Start(100 + from * 4096)).unwrap();
        file.write_all(&vec![0x5a; if from == 0 { 4 * 4096 } else { 30 * 4096 }]).unwrap();
        drop(file);
        let damaged = std::fs::read(&db).unwrap();
        let store = Store::open(&db).await.unwrap();
        assert_eq!((store.trouble(), store.looks_only()), (Some(Trouble::Damaged), true));
        assert_eq!(std::fs::read(&db).unwrap(), damaged, "it was not written to");
        assert!(changed(&store).await.is_err());
        if let Some(copy) = store.looks_at() {
            assert_eq!(copy, "daily-2026-12-01.db");
            assert_eq!(packs(&store).await, had);
        }
        assert!(store.try_again().await.is_err());
        let kept = store.kept_copy("daily-2026-12-01.db").unwrap();
        let name = store.bring_back(kept, "2026-12-02-090000").await.unwrap().unwrap();
        assert_eq!((store.trouble(), store.looks_only(), packs(&store).await), (None, false, had));
        changed(&store).await.unwrap();
        assert_eq!(
            std::fs::read(store.copies_folder().join(name)).unwrap(),
            damaged,
            "kept, whole"
        );
        store.close().await.unwrap();
        let again = Store::open(&db).await.unwrap();
        assert_eq!(packs(&again).await, had + 1);
    }
    // Without a copy there is nothing to look at: it is said.
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("a.db");
    filled(&db).await;
    let mut file = File::options().write(true).open(&db).unwrap();
    file.seek(SeekFrom::Start(100)).unwrap();
    file.write_all(&[0x5a; 30_000]).unwrap();
    assert!(Store::open(&db).await.is_err());
}

/// Nobody else on this machine reads what is kept, and a copy lets nobody in.
#[cfg(unix)]
#[tokio::test]
async fn files_are_their_owners_and_copies_name_no_device() {
    use std::os::unix::fs::PermissionsExt;
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("a.db");
    std::fs::write(&db, b"").unwrap();
    std::fs::set_permissions(&db, PermissionsExt::from_mode(0o644)).unwrap();
    let store = Store::open(&db).await.unwrap();
    store.import(plan()).await.unwrap();
    let token = *b"thirty-two bytes of a device: it";
    store.let_in("Deck".to_owned(), lake_hour_store::Role::Log, token, 0).await.unwrap();
    store.nightly("2026-12-01", "2026-W49").await.unwrap();
    let saved = folder.path().join("saved.db");
    store.back_up(saved.clone()).await.unwrap();
    let copies = store.copies_folder();
    let mut all = vec![saved, copies.clone()];
    for within in [folder.path(), &copies] {
        all.extend(std::fs::read_dir(within).unwrap().map(|e| e.unwrap().path()));
    }
    assert!(all.len() >= 7, "{all:?}");
    for path in all {
        let may = std::fs::metadata(&path).unwrap().permissions().mode();
        assert_eq!(may & 0o077, 0, "{}", path.display());
        let there = path.is_file() && path.extension().is_some_and(|e| e == "db") && path != db;
        if there {
            let bytes = std::fs::read(&path).unwrap();
            assert!(!bytes.windows(token.len()).any(|w| w == token), "{}", path.display());
        }
    }
    assert_eq!(store.devices().await.unwrap().len(), 1, "here it is let in still");
    assert!(backup::folder(&db).ends_with("a.db.backups"));
}
