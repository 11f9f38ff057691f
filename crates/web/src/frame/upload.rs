//! A file sent by a form, taken piece by piece into a file of its own, so that memory stays small.

use crate::frame::error::{PageError, of_temp};
use crate::frame::form::Typed;
use axum::extract::Multipart;
use axum::http::StatusCode;
use std::io::{Seek, SeekFrom, Write};

/// A file that was sent.
#[derive(Debug)]
pub(crate) struct Upload {
    /// As its sender calls it.
    pub(crate) name: String,
    /// Its bytes, from the start.
    pub(crate) file: std::fs::File,
    /// How many they are.
    pub(crate) size: u64,
    /// What was said beside it.
    pub(crate) beside: Typed,
}

/// Fields beside a file, and the longest text of one. [bytes]
const MOST_BESIDE: usize = 8;
const LONGEST_BESIDE: usize = 100;

/// Takes the field `file`, of at most `largest` bytes. `None` when nothing was chosen.
pub(crate) async fn receive(
    mut form: Multipart,
    largest: usize,
) -> Result<Option<Upload>, PageError> {
    let broke = || PageError::BadForm("the file broke off on the way".to_owned());
    let refused = |e: axum::extract::multipart::MultipartError| {
        if e.status() == StatusCode::PAYLOAD_TOO_LARGE {
            PageError::FileTooLarge(largest >> 20)
        } else {
            broke()
        }
    };
    let mut file = tempfile::tempfile().map_err(|e| of_temp(&e))?;
    let (mut size, mut name) = (0, String::new());
    let (mut said, mut beside) = (0, Typed::default());
    while let Some(mut field) = form.next_field().await.map_err(refused)? {
        if field.name() != Some("file") {
            let of = field.name().unwrap_or_default().to_owned();
            let mut text = Vec::new();
            while let Some(chunk) = field.chunk().await.map_err(refused)? {
                text.extend(chunk.iter().take(LONGEST_BESIDE - text.len()));
            }
            if said < MOST_BESIDE && !of.is_empty() {
                said += 1;
                beside = beside.with(&of, String::from_utf8_lossy(&text));
            }
            continue;
        }
        name = field.file_name().unwrap_or_default().chars().take(80).collect();
        while let Some(chunk) = field.chunk().await.map_err(refused)? {
            size += chunk.len() as u64;
            file.write_all(&chunk).map_err(|e| of_temp(&e))?;
        }
    }
    file.seek(SeekFrom::Start(0)).map_err(|e| of_temp(&e))?;
    Ok((size > 0).then_some(Upload { name, file, size, beside }))
}
