//! GPX 1.1 in and out (GPX 1.1 schema, <http://www.topografix.com/GPX/1/1>).
//!
//! A track of any length is read as a stream into a few thousand pieces, so that memory stays small
//! however large the file is; the pieces become the stretches of a day.

mod pieces;
mod read;
mod stretches;
mod write;

pub use read::read;
pub use stretches::stretches;
pub use write::write;

use lake_hour_core::live::Place;

/// Great-circle distance; nothing where either is no place. [m]
pub fn distance(from: (f64, f64), to: (f64, f64)) -> f64 {
    let place = |(lat, lon): (f64, f64)| Place::of(lat, lon);
    place(from).zip(place(to)).map_or(0.0, |(from, to)| from.to(to).value())
}

/// Why a file is no route.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum GpxError {
    /// Not well-formed, or broken off.
    #[error("at byte {at}: this is not well-formed XML ({why})")]
    Xml {
        /// Where.
        at: u64,
        /// What the parser says.
        why: String,
    },
    /// Declares a document type: entities could make it explode.
    #[error("it declares a document type, which no GPX file needs; it was not read")]
    DocumentType,
    /// Another kind of file.
    #[error("it is not a GPX file: its first element is not gpx")]
    NotGpx,
    /// Nothing in it to go by.
    #[error("it holds no track or route with at least two good points")]
    NoPoints,
    /// Far more than any day.
    #[error("it holds more than {0} points; at most so many are read")]
    TooMany(u64),
}

/// One piece of the way.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Piece {
    /// Distance. [m]
    pub metres: f64,
    /// Time, where the points had it. [s]
    pub seconds: f64,
    /// Mean elevation. [m]
    pub elevation: Option<f64>,
}

/// A way read from a file.
#[derive(Debug, Clone, PartialEq)]
pub struct Way {
    /// Its name in the file.
    pub name: Option<String>,
    /// Points read.
    pub points: u64,
    /// The way in pieces, in order.
    pub pieces: Vec<Piece>,
    /// The way drawn with few points: (latitude, longitude).
    pub line: Vec<(f64, f64)>,
    /// Whether the points had times that can be used.
    pub timed: bool,
    /// Minute of the day at which it starts, in UTC.
    pub start_minute: Option<u16>,
    /// When it starts, in seconds since 1970. [s]
    pub begins: Option<i64>,
    /// What was odd about it, in sentences.
    pub odd: Vec<String>,
}

impl Way {
    /// Length of the way. [m]
    pub fn metres(&self) -> f64 {
        self.pieces.iter().map(|p| p.metres).sum()
    }

    /// Time it took, without gaps. [s]
    pub fn seconds(&self) -> f64 {
        self.pieces.iter().map(|p| p.seconds).sum()
    }
}

#[cfg(test)]
mod tests;
