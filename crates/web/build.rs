//! Packs the styles, scripts and pictures once, when the program is built: what is sent needs no work
//! then. Each is known by a mark of its contents, the fonts in the styles too.

use std::fmt::Write as _;
use std::io::Write as _;
use std::path::{Path, PathBuf};
use std::{env, fs};

/// Letters of the mark: enough that no two versions share it.
const MARK: usize = 12;

fn main() {
    println!("cargo::rerun-if-changed=assets");
    let from = Path::new("assets");
    let to = PathBuf::from(env::var_os("OUT_DIR").expect("cargo sets it"));
    let mut files = Vec::new();
    find(from, &mut files);
    files.sort();
    let mut table = String::from("&[\n");
    for (n, file) in files.iter().enumerate() {
        let name = file.strip_prefix(from).expect("within").to_str().expect("plain names");
        let mut bytes = fs::read(file).expect("an asset");
        if name.ends_with(".css") {
            bytes = with_marks(from, bytes);
        }
        let packs = [".css", ".js", ".svg", ".txt"].iter().any(|kind| name.ends_with(kind));
        let (brotli, gzip) =
            if packs { (brotli(&bytes), gzip(&bytes)) } else { (Vec::new(), Vec::new()) };
        for (kind, bytes) in [("plain", &bytes), ("br", &brotli), ("gz", &gzip)] {
            fs::write(to.join(format!("{n}.{kind}")), bytes).expect("OUT_DIR can be written");
        }
        let mark = mark(&bytes);
        writeln!(
            table,
            "Asset {{ name: {name:?}, mark: {mark:?}, plain: include_bytes!(concat!(env!(\"OUT_DIR\"), \"/{n}.plain\")), \
             brotli: include_bytes!(concat!(env!(\"OUT_DIR\"), \"/{n}.br\")), \
             gzip: include_bytes!(concat!(env!(\"OUT_DIR\"), \"/{n}.gz\")) }},"
        )
        .expect("a string");
    }
    table.push(']');
    fs::write(to.join("assets.rs"), table).expect("OUT_DIR can be written");
}

fn find(folder: &Path, files: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).expect("a folder") {
        let path = entry.expect("an entry").path();
        if path.is_dir() { find(&path, files) } else { files.push(path) }
    }
}

/// The styles with their fonts' addresses marked.
fn with_marks(from: &Path, css: Vec<u8>) -> Vec<u8> {
    let mut css = String::from_utf8(css).expect("styles are text");
    let mut fonts = Vec::new();
    find(&from.join("fonts"), &mut fonts);
    for font in fonts.iter().filter(|f| f.extension().is_some_and(|e| e == "woff2")) {
        let name = font.strip_prefix(from).expect("within").to_str().expect("plain names");
        let marked = format!("/assets/{name}?v={}", mark(&fs::read(font).expect("a font")));
        css = css.replace(&format!("/assets/{name}"), &marked);
    }
    css.into_bytes()
}

/// FNV-1a, 64 bits: no secret, only another text for another version.
fn mark(bytes: &[u8]) -> String {
    let hash = bytes.iter().fold(0xcbf2_9ce4_8422_2325_u64, |hash, byte| {
        (hash ^ u64::from(*byte)).wrapping_mul(0x0100_0000_01b3)
    });
    format!("{hash:016x}")[..MARK].to_owned()
}

fn brotli(bytes: &[u8]) -> Vec<u8> {
    let mut packed = Vec::new();
    let settings =
        brotli::enc::BrotliEncoderParams { quality: 11, lgwin: 22, ..Default::default() };
    brotli::BrotliCompress(&mut &bytes[..], &mut packed, &settings).expect("memory");
    packed
}

fn gzip(bytes: &[u8]) -> Vec<u8> {
    let mut packed = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::best());
    packed.write_all(bytes).expect("memory");
    packed.finish().expect("memory")
}
