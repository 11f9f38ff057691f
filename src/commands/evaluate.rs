//! `lake-hour evaluate`: a plan in, a result out.

use super::{Failed, print};
use crate::cli::Format;
use lake_hour_formats::{plan, result, tables};
use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use std::io::Read;
use std::path::Path;

pub(crate) fn evaluate(file: &Path, format: Format, working: bool) -> Result<(), Failed> {
    let bytes = read(file)?;
    let plan = plan::read(&bytes)?;
    let plan = plan.with_parts_counted();
    let judge = plan.judge().map_err(|e| Failed::Input(vec![e.to_string()]))?;
    let evaluations: Vec<_> = plan.packs.par_iter().map(|pack| judge.in_full(pack)).collect();
    let document = result::document(&plan, &evaluations, working && format == Format::Json);
    match format {
        Format::Json => {
            let mut json = serde_json::to_string_pretty(&document)
                .map_err(|e| Failed::Run(anyhow::Error::new(e)))?;
            json.push('\n');
            print(&json)
        }
        Format::Csv => print(&tables::csv(&document)),
        Format::Text => print(&tables::text(&document)),
    }
}

/// Reads no more than a plan may have, so that a device or a huge file cannot fill the memory.
pub(super) fn read(file: &Path) -> Result<Vec<u8>, Failed> {
    let most = plan::LARGEST as u64 + 1;
    let mut bytes = Vec::new();
    let done = if file == Path::new("-") {
        std::io::stdin().take(most).read_to_end(&mut bytes)
    } else {
        std::fs::File::open(file).and_then(|f| f.take(most).read_to_end(&mut bytes))
    };
    match done {
        Ok(_) => Ok(bytes),
        Err(e) => Err(Failed::Input(vec![format!("{}: cannot be read: {e}", file.display())])),
    }
}
