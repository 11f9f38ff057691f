//! Who may import whom, as ARCHITECTURE.md says.

use std::path::{Path, PathBuf};
use std::process::Command;

/// What each module of the core may use; each also its own.
const CORE: &[(&str, &[&str])] = &[
    ("allowed", &["units"]),
    ("units", &["allowed"]),
    ("source", &[]),
    ("shelf", &["units", "source"]),
    ("rig", &["units", "source", "shelf"]),
    ("day", &["units", "source", "rig"]),
    ("propulsion", &["units", "source", "rig", "day"]),
    ("pack", &["units", "source", "allowed", "rig", "shelf"]),
    ("charge", &["units", "source", "shelf"]),
    ("drawdown", &["units", "source", "day", "shelf", "pack"]),
    ("life", &["units", "source", "shelf", "pack", "drawdown"]),
    ("house", &["units", "shelf", "life"]),
    (
        "compare",
        &[
            "units",
            "source",
            "rig",
            "day",
            "propulsion",
            "shelf",
            "pack",
            "drawdown",
            "life",
            "house",
            "charge",
        ],
    ),
    ("plan", &["rig", "day", "pack", "house", "compare"]),
];

/// What each crate may use of the others.
const CRATES: &[(&str, &[&str])] = &[
    ("core", &[]),
    ("formats", &["core"]),
    ("store", &["core", "formats"]),
    ("web", &["core", "formats", "store"]),
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

#[test]
fn modules_of_the_core_use_only_what_stands_before_them() {
    let source = root().join("crates/core/src");
    let mut files = Vec::new();
    rust_files(&source, &mut files);
    for file in files.iter().filter(|f| !f.ends_with("tests.rs")) {
        let within = file.strip_prefix(&source).unwrap();
        let module = within.components().next().unwrap().as_os_str().to_str().unwrap();
        let module = module.trim_end_matches(".rs");
        if module == "lib" {
            continue;
        }
        let (_, may) = CORE.iter().find(|(m, _)| *m == module).unwrap_or_else(|| {
            panic!("{module} is new: say in ARCHITECTURE.md and here what it may use")
        });
        let text = std::fs::read_to_string(file).unwrap();
        for other in used(&text, "crate::") {
            assert!(
                other == module || may.contains(&other),
                "{}: {module} may not use {other}",
                within.display()
            );
        }
    }
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
