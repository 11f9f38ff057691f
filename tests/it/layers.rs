//! Who may import whom, as ARCHITECTURE.md says.

use std::path::{Path, PathBuf};
use std::process::Command;

/// What each module of the core may use; each also its own. `keyed` is a macro for all.
const CORE: &[(&str, &[&str])] = &[
    ("keyed", &[]),
    ("numeric", &[]),
    ("allowed", &["units"]),
    ("units", &["allowed", "keyed"]),
    ("source", &["keyed"]),
    ("chemistry", &["units", "keyed", "numeric"]),
    ("shelf", &["units", "allowed", "source", "keyed", "chemistry"]),
    ("rig", &["units", "source", "keyed", "numeric", "shelf"]),
    ("day", &["units", "source", "keyed", "rig"]),
    ("propulsion", &["units", "source", "numeric", "rig", "day"]),
    ("pack", &["units", "source", "keyed", "allowed", "rig", "propulsion", "shelf"]),
    ("refill", &["units", "source", "numeric", "chemistry", "rig", "day", "shelf", "pack"]),
    (
        "drawdown",
        &["units", "keyed", "source", "numeric", "chemistry", "rig", "day", "shelf", "pack"],
    ),
    ("wiring", &["units", "keyed", "numeric", "rig", "shelf", "pack", "refill", "drawdown"]),
    ("life", &["units", "source", "keyed", "numeric", "shelf", "pack", "drawdown"]),
    ("money", &["units", "numeric", "shelf", "pack", "life"]),
    ("house", &["units", "shelf", "life", "money"]),
    ("wants", &["allowed", "keyed"]),
    ("kept", &["units", "keyed"]),
    (
        "verdict",
        &[
            "units",
            "source",
            "keyed",
            "numeric",
            "rig",
            "day",
            "propulsion",
            "shelf",
            "pack",
            "refill",
            "drawdown",
            "wiring",
            "life",
            "money",
            "house",
        ],
    ),
    (
        "plan",
        &[
            "units",
            "keyed",
            "allowed",
            "rig",
            "day",
            "propulsion",
            "shelf",
            "pack",
            "life",
            "money",
            "house",
            "wants",
            "kept",
            "verdict",
        ],
    ),
    (
        "parts",
        &[
            "units", "source", "keyed", "kept", "rig", "shelf", "pack", "refill", "wiring",
            "house", "verdict", "plan",
        ],
    ),
    (
        "proposals",
        &[
            "parts",
            "units",
            "keyed",
            "allowed",
            "numeric",
            "rig",
            "day",
            "propulsion",
            "shelf",
            "pack",
            "refill",
            "drawdown",
            "wiring",
            "house",
            "verdict",
            "plan",
        ],
    ),
    (
        "decide",
        &[
            "units",
            "source",
            "keyed",
            "numeric",
            "rig",
            "day",
            "propulsion",
            "shelf",
            "pack",
            "refill",
            "drawdown",
            "life",
            "house",
            "wants",
            "verdict",
            "plan",
            "proposals",
        ],
    ),
    ("learn", &["keyed", "rig", "pack"]),
    (
        "log",
        &[
            "keyed",
            "kept",
            "source",
            "shelf",
            "units",
            "numeric",
            "rig",
            "day",
            "propulsion",
            "pack",
            "drawdown",
            "life",
            "verdict",
            "plan",
            "learn",
            "house",
            "money",
            "refill",
            "allowed",
        ],
    ),
    (
        "live",
        &[
            "units",
            "keyed",
            "numeric",
            "rig",
            "day",
            "propulsion",
            "pack",
            "drawdown",
            "house",
            "verdict",
            "plan",
        ],
    ),
    (
        "care",
        &[
            "units", "numeric", "shelf", "pack", "drawdown", "refill", "life", "house", "learn",
            "log",
        ],
    ),
    (
        "build",
        &[
            "parts",
            "units",
            "source",
            "keyed",
            "rig",
            "day",
            "propulsion",
            "shelf",
            "pack",
            "refill",
            "drawdown",
            "wiring",
            "verdict",
            "kept",
            "plan",
            "proposals",
            "decide",
        ],
    ),
];

/// What each folder of the pages' crate may use; each also its own. Pages are held apart besides.
const WEB: &[(&str, &[&str])] = &[
    ("figures", &[]),
    ("frame", &["figures"]),
    ("forms", &["figures", "frame"]),
    ("parts", &["figures", "frame", "forms"]),
    ("pages", &["figures", "frame", "forms", "parts"]),
];

/// What each crate may use of the others.
const CRATES: &[(&str, &[&str])] = &[
    ("core", &[]),
    ("formats", &["core"]),
    ("standin", &["core"]),
    ("store", &["core", "formats"]),
    ("web", &["core", "formats", "standin", "store"]),
];

fn root() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR"))
}

fn rust_files(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            rust_files(&path, found);
        } else if path.extension().is_some_and(|e| e == "rs") {
            found.push(path);
        }
    }
}

/// The names that follow `prefix` anywhere in a file, outside its tests and comments.
fn used<'a>(text: &'a str, prefix: &str) -> Vec<&'a str> {
    let code = text.split("#[cfg(test)]").next().unwrap();
    let lines = code.lines().filter(|l| !l.trim_start().starts_with("//"));
    lines
        .flat_map(|l| l.split(prefix).skip(1))
        .map(|rest| rest.split(|c: char| !c.is_alphanumeric() && c != '_').next().unwrap())
        .collect()
}

/// Every file of a crate, with the folder or file of its sources that it belongs to.
fn modules(source: &Path) -> Vec<(String, PathBuf)> {
    let mut files = Vec::new();
    rust_files(source, &mut files);
    let module = |file: &PathBuf| {
        let within = file.strip_prefix(source).unwrap();
        let first = within.components().next().unwrap().as_os_str().to_str().unwrap();
        first.trim_end_matches(".rs").to_owned()
    };
    files
        .into_iter()
        .filter(|f| !f.ends_with("tests.rs"))
        .map(|f| (module(&f), f))
        .filter(|(module, _)| module != "lib")
        .collect()
}

/// What is wrong with who uses whom in a crate, file by file.
fn broken(source: &Path, rules: &[(&str, &[&str])]) -> Vec<String> {
    let mut broken = Vec::new();
    for (module, file) in modules(source) {
        let Some((_, may)) = rules.iter().find(|(m, _)| *m == module) else {
            broken
                .push(format!("{module} is new: say in ARCHITECTURE.md and here what it may use"));
            continue;
        };
        let text = std::fs::read_to_string(&file).unwrap();
        for other in used(&text, "crate::") {
            if other != module && !may.contains(&other) {
                broken.push(format!("{}: {module} may not use {other}", file.display()));
            }
        }
    }
    broken
}

#[test]
fn modules_of_the_core_use_only_what_stands_before_them() {
    assert_eq!(broken(&root().join("crates/core/src"), CORE), Vec::<String>::new());
}

#[test]
fn pages_use_the_frame_and_parts_and_no_other_page() {
    let source = root().join("crates/web/src");
    assert_eq!(broken(&source, WEB), Vec::<String>::new());
    for (module, file) in modules(&source.join("pages")) {
        let text = std::fs::read_to_string(&file).unwrap();
        for other in used(&text, "crate::pages::") {
            assert!(other == module, "{}: {module} may not use {other}", file.display());
        }
    }
}

/// Each rule above can be broken: a file that uses what it may not is found, and a new folder is asked about.
#[test]
fn a_broken_rule_is_found() {
    let folder = std::env::temp_dir().join(format!("lake-hour-layers-{}", std::process::id()));
    std::fs::create_dir_all(folder.join("frame")).unwrap();
    let write = |name: &str, text: &str| std::fs::write(folder.join(name), text).unwrap();
    write("frame/error.rs", "use crate::pages::board;\n// crate::pages is only spoken of\n");
    write("figures.rs", "use crate::figures::typed;\n");
    write("attic.rs", "");
    let found = broken(&folder, WEB);
    std::fs::remove_dir_all(&folder).unwrap();
    assert_eq!(found.len(), 2, "{found:?}");
    assert!(found.iter().any(|f| f.ends_with("frame may not use pages")), "{found:?}");
    assert!(found.iter().any(|f| f.starts_with("attic is new")), "{found:?}");
}

#[test]
fn crates_use_one_another_one_way_only() {
    for (name, may) in CRATES {
        let mut files = Vec::new();
        rust_files(&root().join("crates").join(name).join("src"), &mut files);
        for file in files {
            let text = std::fs::read_to_string(&file).unwrap();
            for other in used(&text, "lake_hour_") {
                assert!(may.contains(&other), "{}: {name} may not use {other}", file.display());
            }
        }
    }
}

#[test]
fn the_core_knows_no_files_clock_network_or_database() {
    let tree = Command::new(env!("CARGO"))
        .args(["tree", "-p", "lake-hour-core", "-e", "normal", "--prefix", "none", "--offline"])
        .current_dir(root())
        .output()
        .unwrap();
    let tree = String::from_utf8(tree.stdout).unwrap();
    for name in ["tokio", "axum", "rusqlite", "askama", "serde"] {
        assert!(!tree.lines().any(|l| l.starts_with(name)), "the core must not depend on {name}");
    }
    let mut files = Vec::new();
    rust_files(&root().join("crates/core/src"), &mut files);
    for file in files {
        let text = std::fs::read_to_string(&file).unwrap();
        for name in ["std::fs", "std::net", "std::time", "std::env", "std::process"] {
            assert!(!text.contains(name), "{} uses {name}", file.display());
        }
    }
}

/// A test file that nobody names with `mod` would never run.
#[test]
fn no_test_file_is_forgotten() {
    for folder in
        ["tests/it", "crates/core/tests/it", "crates/store/tests/it", "crates/web/tests/it"]
    {
        let folder = root().join(folder);
        let main = std::fs::read_to_string(folder.join("main.rs")).unwrap();
        for entry in std::fs::read_dir(&folder).unwrap() {
            let path = entry.unwrap().path();
            let name = path.file_stem().unwrap().to_str().unwrap().to_owned();
            assert!(
                name == "main" || main.contains(&format!("mod {name};")),
                "{} is not named in main.rs",
                path.display()
            );
        }
    }
}
