//! Files brought to the shelf: looked at, or taken piece by piece.

use crate::error::StoreError;
use crate::shelf::{self, Progress, Report, Taking};
use crate::{Store, open};
use std::fs::File;
use std::sync::Arc;

impl Store {
    /// Says what a file (CSV or JSON) would do to the shelf. It reads over a connection of its own, and
    /// keeps nobody waiting.
    ///
    /// # Errors
    /// [`StoreError`] when the database cannot be read; what is wrong with the file stands in the report.
    pub async fn look_at_file(
        &self,
        file: File,
        progress: Arc<Progress>,
    ) -> Result<Report, StoreError> {
        let path = self.path.clone();
        let looked = tokio::task::spawn_blocking(move || {
            let c = open::reader(&path).map_err(|_| StoreError::Closed)?;
            // One look at the shelf, whatever is changed meanwhile.
            let t = c.unchecked_transaction()?;
            let mut pieces = shelf::understand(file, false, progress.clone());
            let mut looking = Taking::look(progress);
            while let Some(piece) = pieces.blocking_recv() {
                if !looking.piece(&t, piece)? {
                    break;
                }
            }
            Ok(looking.report)
        });
        looked.await.map_err(|_| StoreError::Panicked)?
    }

    /// Takes a file (CSV or JSON) onto the shelf as one change, or, if it is broken or called off, not
    /// at all. Others write in between; what they changed of it stays theirs even then.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written: what was written of it is taken back then too.
    pub async fn take_file(
        &self,
        file: File,
        progress: Arc<Progress>,
    ) -> Result<Report, StoreError> {
        let of = progress.clone();
        let mut taking = self.write(move |t| Taking::begin(t, of)).await?;
        let change = taking.change();
        let mut pieces = shelf::understand(file, true, progress);
        let mut failed = None;
        while let Some(piece) = pieces.recv().await {
            let done = self
                .write(move |t| {
                    let goes_on = taking.piece(t, piece)?;
                    Ok((taking, goes_on))
                })
                .await;
            match done {
                Ok((back, true)) => taking = back,
                Ok((back, false)) => {
                    taking = back;
                    break;
                }
                Err(error) => {
                    failed = Some(error);
                    taking = Taking::look(Arc::default());
                    break;
                }
            }
        }
        drop(pieces);
        let done = match failed {
            Some(error) => Err(error),
            None => {
                self.write(move |t| {
                    let kept = taking.finish(t)?;
                    Ok((kept, taking.report))
                })
                .await
            }
        };
        if !matches!(done, Ok((true, _))) {
            while self.write(move |t| shelf::take_back(t, change)).await? {}
        }
        self.tidy();
        done.map(|(_, report)| report)
    }
}
