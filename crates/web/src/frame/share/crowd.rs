//! Who stands at the second listener: so many strangers at a time, so many from one place, and none for long. The oldest makes
//! room, so that whoever comes next is heard, and the machine's own pages keep the files that they need.

use std::collections::VecDeque;
use std::net::IpAddr;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use tokio::sync::{Notify, OwnedSemaphorePermit, Semaphore};

/// Strangers at once, strangers from one place, and devices that were let in.
const STRANGERS: usize = 128;
const OF_ONE: usize = 64;
const KNOWN: usize = 256;
/// Of the files that the program may have open these take at most one in so many.
const SHARE: usize = 4;

#[derive(Debug)]
struct Stranger {
    place: IpAddr,
    guest: Arc<Guest>,
}

/// All connections of the second listener.
#[derive(Debug, Clone)]
pub(crate) struct Crowd {
    strangers: Arc<Mutex<VecDeque<Stranger>>>,
    most: usize,
    room: Arc<Semaphore>,
}

/// One connection.
#[derive(Debug, Default)]
pub(crate) struct Guest {
    known: AtomicBool,
    go: Notify,
}

impl Guest {
    /// Whether it is a device that was let in.
    pub(crate) fn is_known(&self) -> bool {
        self.known.load(Ordering::Acquire)
    }

    /// Resolves when it is to go.
    pub(crate) async fn told_to_go(&self) {
        self.go.notified().await;
    }
}

/// Its place, until it is dropped.
#[derive(Debug)]
pub(crate) struct Place {
    pub(crate) guest: Arc<Guest>,
    crowd: Crowd,
    _room: OwnedSemaphorePermit,
}

impl Crowd {
    /// Of a program that may have so many files open.
    pub(crate) fn new(files: usize) -> Self {
        let share = (files / SHARE).max(4);
        let most = STRANGERS.min(share / 2);
        // A stranger who was told to go holds its file for a moment more.
        let room = (2 * most + KNOWN).min(share);
        Self { strangers: Arc::default(), most, room: Arc::new(Semaphore::new(room)) }
    }

    /// Waits until there is room for one more.
    pub(crate) async fn room(&self) -> Option<OwnedSemaphorePermit> {
        self.room.clone().acquire_owned().await.ok()
    }

    /// Somebody comes, and whoever came longest ago goes for it where there are too many.
    pub(crate) fn enter(&self, peer: IpAddr, room: OwnedSemaphorePermit) -> Place {
        let guest = Arc::new(Guest::default());
        let place = place(peer);
        self.with(|all| {
            let of_one = all.iter().filter(|s| s.place == place).count();
            let goes = if of_one >= OF_ONE.min(self.most) {
                all.iter().position(|s| s.place == place)
            } else {
                (all.len() >= self.most).then_some(0)
            };
            if let Some(gone) = goes.and_then(|n| all.remove(n)) {
                gone.guest.go.notify_one();
            }
            all.push_back(Stranger { place, guest: Arc::clone(&guest) });
        });
        Place { guest, crowd: self.clone(), _room: room }
    }

    /// It is a device that was let in: it may stay.
    pub(crate) fn know(&self, guest: &Arc<Guest>) {
        guest.known.store(true, Ordering::Release);
        self.leave(guest);
    }

    fn leave(&self, guest: &Arc<Guest>) {
        self.with(|all| all.retain(|s| !Arc::ptr_eq(&s.guest, guest)));
    }

    fn with<T>(&self, work: impl FnOnce(&mut VecDeque<Stranger>) -> T) -> T {
        work(&mut self.strangers.lock().unwrap_or_else(PoisonError::into_inner))
    }
}

impl Drop for Place {
    fn drop(&mut self) {
        self.crowd.leave(&self.guest);
    }
}

/// Where a peer is: an address, or the network of an IPv6 one, of which anybody has as many as there are.
pub(super) fn place(peer: IpAddr) -> IpAddr {
    match peer {
        IpAddr::V4(_) => peer,
        IpAddr::V6(ip) => match ip.to_ipv4_mapped() {
            Some(ip) => IpAddr::V4(ip),
            None => IpAddr::V6((u128::from(ip) >> 64 << 64).into()),
        },
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::net::Ipv4Addr;

    fn enters(crowd: &Crowd, n: u8) -> Place {
        let room = crowd.room.clone().try_acquire_owned().expect("room");
        crowd.enter(IpAddr::V4(Ipv4Addr::new(10, 0, 0, n)), room)
    }

    async fn is_told(place: &Place) -> bool {
        tokio::select! {
            biased;
            () = place.guest.told_to_go() => true,
            () = std::future::ready(()) => false,
        }
    }

    #[tokio::test]
    async fn the_oldest_of_one_place_makes_room_and_whoever_was_let_in_stays() {
        let crowd = Crowd::new(1024);
        let other = enters(&crowd, 9);
        let known = enters(&crowd, 1);
        crowd.know(&known.guest);
        let all: Vec<Place> = (0..OF_ONE).map(|_| enters(&crowd, 1)).collect();
        for place in &all {
            assert!(!is_told(place).await);
        }
        let newest = enters(&crowd, 1);
        assert!(is_told(&all[0]).await && !is_told(&all[1]).await && !is_told(&newest).await);
        assert!(!is_told(&other).await && !is_told(&known).await && known.guest.is_known());
        // From everywhere: no more than there is room for in all.
        let many: Vec<Place> = (0..STRANGERS as u8).map(|n| enters(&crowd, n)).collect();
        assert!(is_told(&other).await, "it came first");
        assert_eq!(crowd.with(|all| all.len()), STRANGERS);
        drop((many, all, newest, other));
        assert_eq!(crowd.with(|all| all.len()), 0, "whoever goes is forgotten");
    }

    #[test]
    fn few_files_are_shared_too() {
        for files in [16, 64, 256, 1024, 1 << 20] {
            let crowd = Crowd::new(files);
            assert!(crowd.most >= 1 && crowd.room.available_permits() <= (files / SHARE).max(4));
            assert!(crowd.most <= STRANGERS && crowd.most < crowd.room.available_permits());
        }
        let lan: IpAddr = "fd00::1:2:3:4".parse().expect("an address");
        assert_eq!(place(lan), place("fd00::9".parse().expect("one of its neighbours")));
    }
}
