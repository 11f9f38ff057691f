//! The store through its public face, on real files.
#![allow(clippy::unwrap_used, clippy::print_stderr)]

mod backup;
mod kept;
mod log;
mod numbers;
mod shelf;
mod together;
mod trouble;

use lake_hour_core::day::{Accessory, Day, Duty, Heading, HourConditions, Stretch, Surface};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::{Pack, WeakUnit};
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{
    Bay, Charger, CraftKind, Rig, SettingPoint, SpeedPoint, Supply, Whereabouts,
};
use lake_hour_core::shelf::{Battery, Chemistry, CyclePoint, Peak, Rating, Size};
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Kilograms, Metres, MetresPerSecond, Millimetres, Money,
    Newtons, Ohms, Volts, WattHours, Watts,
};
use lake_hour_store::{Change, Direction, OpenError, Place, Store, StoreError, StretchId};

/// A plan that uses every column there is.
fn full_plan() -> Plan {
    let mut battery = Battery::new(
        "Marl Point 12-100",
        Chemistry::Lfp,
        Volts::of(12.8),
        Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(5.0) },
    );
    battery.ratings.push(Rating::reserve(236.0));
    battery.ratings.push(Rating::Energy { wh: WattHours::of(1280.0), over: Hours::of(20.0) });
    battery.cranking = Some(Amps::of(500.0));
    battery.mass = Some(Kilograms::of(11.5));
    let side = Millimetres::of;
    battery.size = Some(Size { length: side(330.0), width: side(173.0), height: side(215.0) });
    battery.price = Some(Money::of(320.0));
    battery.max_continuous = Some(Amps::of(100.0));
    battery.peak = Some(Peak { current: Amps::of(200.0), seconds: 5.0 });
    battery.low_voltage_cutoff = Some(Volts::of(10.0));
    battery.charge_voltage = Some(Volts::of(14.4));
    battery.cold_cutoff = Some(Celsius::of(0.0));
    battery.heater = Some(true);
    battery.self_discharge = Some(0.03);
    battery.max_series = Some(4);
    battery.others.insert("discharge_low_c", (-20.0).into());
    battery.others.insert("seller", "Reedmarsh Supply".into());
    battery.resistance = Some(Ohms::of(0.01));
    battery.cycles = vec![CyclePoint { depth: 0.8, cycles: 3500.0 }];
    battery.calendar_years = Some(10.0);
    let mut pack = Pack::of(battery, 2, 1);
    pack.extras.other = Some(Money::of(150.0));
    pack.aboard = true;
    pack.weak_unit = Some(WeakUnit { capacity_share: 0.9, resistance_factor: 1.5 });
    let mut rig = Rig::new("Sampling skiff", CraftKind::VHull, Volts::of(24.0));
    rig.motor.name = "24 V bow motor".into();
    rig.motor.max_current = Some(Amps::of(50.0));
    rig.motor.settings = vec![SettingPoint { setting: 10.0, current: Amps::of(46.0), at: None }];
    rig.craft.length_m = Some(4.2);
    rig.craft.loaded_mass = Some(Kilograms::of(420.0));
    rig.controller_max = Some(Volts::of(32.0));
    rig.controller_min = Some(Volts::of(19.0));
    rig.battery_mass_limit = Some(Kilograms::of(70.0));
    rig.craft.empty_mass = Some(Kilograms::of(130.0));
    rig.craft.people = 3;
    rig.craft.gear = Some(Kilograms::of(40.0));
    rig.craft.windage = Some(1.7);
    rig.motor.also_accepts = vec![Volts::of(12.0)];
    rig.motor.thrust = Some(Newtons::of(350.0));
    rig.motor.brushless = true;
    rig.motor.count = 2;
    rig.motor.dial = lake_hour_core::rig::Dial::steps_of(5);
    rig.motor.regenerates = true;
    rig.motor.settings_measured = true;
    rig.lead = Some(Metres::of(4.5));
    rig.trailer_limit = Some(Kilograms::of(900.0));
    rig.main_engine = true;
    rig.bays = vec![Bay {
        name: "Bow box".into(),
        whereabouts: Whereabouts::Bow,
        length: Millimetres::of(560.0),
        width: Millimetres::of(380.0),
        height: Millimetres::of(260.0),
        mass_limit: Some(Kilograms::of(60.0)),
        sealed: true,
        upright_only: true,
        layers: 2,
        position: 0.15,
    }];
    rig.chargers = vec![Charger {
        name: "Dock charger".into(),
        supply: Supply::Mains,
        banks: 2,
        bank_voltage: Volts::of(12.0),
        current: Amps::of(10.0),
        absorption: Some(Volts::of(14.6)),
        profiles: vec![Chemistry::Agm, Chemistry::Lfp],
        hours: Some(Hours::of(10.0)),
    }];
    rig.measured = vec![SpeedPoint { speed: MetresPerSecond::of(1.2), current: Amps::of(11.0) }];
    let mut day = Day::starting_at(420)
        .then("Out", Hours::of(0.75), Duty::Current(Amps::of(22.0)))
        .then("Hold", Hours::of(1.0), Duty::Power(Watts::of(200.0)))
        .then("Drift", Hours::of(0.5), Duty::Off)
        .then("Home", Hours::of(0.5), Duty::Setting(9.0));
    day.ambient = Some(Celsius::of(14.0));
    day.battery_start = Some(Celsius::of(20.0));
    day.days_without_charging = 2;
    day.ready_by = Some(330);
    day.conditions.wind = MetresPerSecond::of(3.5);
    day.conditions.current = MetresPerSecond::of(0.2);
    day.hourly = vec![HourConditions {
        from_minute: 720,
        wind: Some(MetresPerSecond::of(5.0)),
        current: None,
        air: Some(Celsius::of(18.0)),
    }];
    day.accessories = vec![Accessory {
        name: "Sonar".into(),
        power: Watts::of(18.0),
        hours: Some(Hours::of(2.0)),
        on_house: true,
    }];
    day.stretches[0].share = 0.5;
    day.stretches[0].heading = Heading::With;
    day.stretches[0].surface = Surface::Gravel;
    day.stretches[0].grade = 0.02;
    day.stretches[0].stops = 3;
    let day = day
        .then("Transect", Hours::of(0.5), Duty::Distance(Metres::of(900.0)))
        .then("Troll", Hours::of(0.25), Duty::Speed(MetresPerSecond::of(0.8)))
        .then("Station", Hours::of(0.5), Duty::HoldPlace);
    let rules = HouseRules::default().with_floor(Chemistry::Agm, 0.2);
    Plan {
        currency: "USD".into(),
        rig,
        day,
        rules,
        packs: vec![pack],
        wants: vec![],
        build: Default::default(),
    }
}

fn stretch(name: &str) -> Stretch {
    Stretch::new(name, Hours::of(0.5), Duty::Current(Amps::of(5.0)))
}

fn file(dir: &tempfile::TempDir) -> std::path::PathBuf {
    dir.path().join("lake-hour.db")
}

async fn names(store: &Store, rig: lake_hour_store::RigId) -> Vec<String> {
    let board = store.board(rig).await.unwrap();
    board.plan.day.stretches.iter().map(|s| s.name.clone()).collect()
}

#[tokio::test]
async fn closing_and_opening_again_loses_nothing_and_gives_the_same_day() {
    let dir = tempfile::tempdir().unwrap();
    let store = Store::open(&file(&dir)).await.unwrap();
    let rig = store.import(full_plan()).await.unwrap();
    let before = store.board(rig).await.unwrap();
    assert_eq!(before.plan, full_plan());
    drop(store);
    let again = Store::open(&file(&dir)).await.unwrap().board(rig).await.unwrap();
    assert_eq!(again, before);
    let evaluated = |plan: &Plan| plan.evaluate().unwrap();
    assert_eq!(evaluated(&again.plan), evaluated(&full_plan()));
    assert!(evaluated(&again.plan)[0].drawn.is_some());
}

#[tokio::test]
async fn a_day_is_added_to_copied_moved_and_removed_from() {
    let dir = tempfile::tempdir().unwrap();
    let store = Store::open(&file(&dir)).await.unwrap();
    let mut plan = full_plan();
    plan.day.stretches.truncate(4);
    let rig = store.import(plan).await.unwrap();
    let id = async |n: usize| store.board(rig).await.unwrap().stretches[n];
    let made = store.change(rig, Change::AddStretch(stretch("Back"), Place::Last)).await.unwrap();
    assert_eq!(made.sentence, "Added the stretch Back");
    assert_eq!(names(&store, rig).await, ["Out", "Hold", "Drift", "Home", "Back"]);
    store.change(rig, Change::CopyStretch(id(0).await)).await.unwrap();
    store.change(rig, Change::MoveStretch(id(2).await, Direction::Earlier)).await.unwrap();
    store.change(rig, Change::RemoveStretch(id(3).await)).await.unwrap();
    assert_eq!(names(&store, rig).await, ["Out", "Hold", "Out", "Home", "Back"]);
    // Moving the first one earlier leaves everything as it is.
    store.change(rig, Change::MoveStretch(id(0).await, Direction::Earlier)).await.unwrap();
    assert_eq!(names(&store, rig).await, ["Out", "Hold", "Out", "Home", "Back"]);
}

#[tokio::test]
async fn every_change_can_be_taken_back_and_made_again() {
    let dir = tempfile::tempdir().unwrap();
    let store = Store::open(&file(&dir)).await.unwrap();
    let rig = store.import(full_plan()).await.unwrap();
    let start = store.board(rig).await.unwrap();
    let pack = start.packs[0];
    let mut renamed = start.plan.rig.clone();
    renamed.name = "Barge".into();
    let changes = [
        Change::RemoveStretch(start.stretches[1]),
        Change::EditStretch(start.stretches[0], stretch("Across")),
        Change::AddPack(Box::new(start.plan.packs[0].clone()), Place::First),
        Change::CopyPack(pack),
        Change::MovePack(pack, Direction::Later),
        Change::EditPack(pack, Box::new(Pack::of(start.plan.packs[0].battery.clone(), 1, 3))),
        Change::RemovePack(pack),
        Change::EditDay(Box::new(Day { outings_per_year: 12.0, ..Day::starting_at(300) })),
        Change::SplitStretch(start.stretches[2]),
        Change::PutStretch(start.stretches[3], 0),
        Change::UseDay("Short".into(), Box::new(start.plan.day.clone()), None),
        Change::EditRules(HouseRules { reserve: 0.3, ..HouseRules::default() }),
        Change::EditRig(Box::new(renamed)),
    ];
    for change in changes.clone() {
        store.change(rig, change).await.unwrap();
    }
    let end = store.board(rig).await.unwrap();
    assert_eq!(end.plan.rig.name, "Barge");
    for _ in &changes {
        assert!(store.undo(rig, None).await.unwrap().done().is_some());
    }
    let back = store.board(rig).await.unwrap();
    assert_eq!((&back.plan, &back.packs), (&start.plan, &start.packs));
    assert_eq!(store.undo(rig, None).await.unwrap().done(), None);
    for _ in &changes {
        assert!(store.redo(rig, None).await.unwrap().done().is_some());
    }
    assert_eq!(store.board(rig).await.unwrap(), end);
    // A new change after an undo leaves nothing to make again.
    store.undo(rig, None).await.unwrap().done();
    store.change(rig, Change::AddStretch(stretch("New"), Place::First)).await.unwrap();
    assert_eq!(store.redo(rig, None).await.unwrap().done(), None);
    assert_eq!(names(&store, rig).await[0], "New");
}

#[tokio::test]
async fn what_is_gone_is_not_found_and_a_full_day_takes_no_more() {
    let dir = tempfile::tempdir().unwrap();
    let store = Store::open(&file(&dir)).await.unwrap();
    let rig = store.import(full_plan()).await.unwrap();
    let gone = store.change(rig, Change::CopyStretch(StretchId(999))).await;
    assert!(matches!(gone, Err(StoreError::NotFound("stretch"))));
    // The failed change must not be offered for undo.
    assert_eq!(store.board(rig).await.unwrap().undo, None);
    assert!(store.board(lake_hour_store::RigId(77)).await.is_err());
    let mut long = full_plan();
    long.day.stretches = vec![stretch("Lap"); 400];
    let rig = store.import(long).await.unwrap();
    let full = store.change(rig, Change::AddStretch(stretch("More"), Place::Last)).await;
    assert_eq!(full.unwrap_err().to_string(), "there are 400 stretches already, and no more fit");
}

#[tokio::test]
async fn a_second_program_a_newer_file_and_no_database_are_refused_in_words() {
    let dir = tempfile::tempdir().unwrap();
    let path = file(&dir);
    let store = Store::open(&path).await.unwrap();
    let second = Store::open(&path).await.unwrap_err();
    assert!(matches!(second, OpenError::InUse(_)));
    assert!(second.to_string().contains("is in use by another running Lake Hour"));
    drop(store);
    let raw = rusqlite::Connection::open(&path).unwrap();
    raw.pragma_update(None, "user_version", 999).unwrap();
    drop(raw);
    let newer = Store::open(&path).await.unwrap_err();
    assert!(newer.to_string().contains("was written by a newer version"), "{newer}");
    let text = dir.path().join("notes.txt");
    std::fs::write(&text, "not a database, but long enough to be looked at as one".repeat(40))
        .unwrap();
    let no_database = Store::open(&text).await.unwrap_err();
    assert!(
        no_database
            .to_string()
            .ends_with("cannot be used: it is no Lake Hour database; name another file with --db"),
        "{no_database}"
    );
}

#[tokio::test]
async fn rigs_are_duplicated_put_away_and_never_more_than_fit() {
    let dir = tempfile::tempdir().unwrap();
    let store = Store::open(&file(&dir)).await.unwrap();
    let rig = store.import(full_plan()).await.unwrap();
    let second = store.duplicate(rig).await.unwrap();
    let (one, two) = (store.board(rig).await.unwrap(), store.board(second).await.unwrap());
    assert_eq!(two.plan.rig.name, "Sampling skiff (2)");
    assert_eq!((&two.plan.day, &two.plan.packs), (&one.plan.day, &one.plan.packs));
    store.archive(rig, true).await.unwrap();
    let names: Vec<_> = store.rigs().await.unwrap();
    assert_eq!(
        names.iter().map(|r| (r.id, r.archived)).collect::<Vec<_>>(),
        [(second, false), (rig, true)]
    );
    store.archive(rig, false).await.unwrap();
    assert_eq!(store.board(rig).await.unwrap().plan, full_plan(), "nothing of it was lost");
    let gone = lake_hour_store::RigId(99);
    assert!(matches!(store.archive(gone, true).await, Err(StoreError::NotFound("rig"))));
    assert!(matches!(store.duplicate(gone).await, Err(StoreError::NotFound("rig"))));
    // A change to one leaves the other as it was, and so does its undo.
    store.change(second, Change::RemoveStretch(two.stretches[0])).await.unwrap();
    assert_eq!(store.board(rig).await.unwrap().plan.day.stretches.len(), 7);
    assert_eq!(store.undo(rig, None).await.unwrap().done(), None);
    // A stretch of another rig is not there.
    let others = store.change(rig, Change::RemoveStretch(two.stretches[1])).await;
    assert!(matches!(others, Err(StoreError::NotFound("stretch"))));
    for _ in 0..198 {
        store.import(full_plan()).await.unwrap();
    }
    let full = store.import(full_plan()).await.unwrap_err().to_string();
    assert_eq!(full, "there are 200 rigs already, and no more fit");
}

/// Fifty changes can be taken back, the newest first; what is older is forgotten.
#[tokio::test]
async fn the_history_is_bounded() {
    let dir = tempfile::tempdir().unwrap();
    let store = Store::open(&file(&dir)).await.unwrap();
    let rig = store.import(full_plan()).await.unwrap();
    for n in 0..60 {
        let change = Change::AddStretch(stretch(&format!("Lap {n}")), Place::Last);
        store.change(rig, change).await.unwrap();
    }
    let mut taken_back = Vec::new();
    while let Some(sentence) = store.undo(rig, None).await.unwrap().done() {
        taken_back.push(sentence);
    }
    assert_eq!((taken_back.len(), taken_back[0].as_str()), (50, "Added the stretch Lap 59"));
    assert_eq!(names(&store, rig).await.len(), 17);
}

/// The two hundred and first pack is refused in words, and none of the others is touched.
#[tokio::test]
async fn a_board_holds_two_hundred_packs_and_no_more() {
    let (store, _folder) = together::on_disk().await;
    let mut plan = full_plan();
    let one = plan.packs[0].clone();
    plan.packs = vec![one.clone(); 200];
    let rig = store.import(plan.clone()).await.unwrap();
    let add = || Change::AddPack(Box::new(one.clone()), Place::First);
    let copy = Change::CopyPack(store.board(rig).await.unwrap().packs[7]);
    for change in [add(), copy] {
        match store.change(rig, change).await {
            Err(StoreError::Full { what: "packs", most: 200 }) => {}
            other => panic!("{other:?}"),
        }
    }
    let board = store.board(rig).await.unwrap();
    assert_eq!((board.packs.len(), board.undo), (200, None));
    store.change(rig, Change::RemovePack(board.packs[0])).await.unwrap();
    store.change(rig, add()).await.unwrap();
    plan.packs.push(one);
    match store.import(plan).await {
        Err(StoreError::Full { what: "packs", .. }) => {}
        other => panic!("{other:?}"),
    }
}
