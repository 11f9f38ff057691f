//! What a device that was let in may do, by its role.

use axum::http::Method;
use lake_hour_store::Role;

/// Addresses that answer at the machine itself only: who is let in, and all that is kept as a whole.
const AT_THE_MACHINE: [&str; 2] = ["/share", "/data"];
/// How pages look to whoever looks: kept by the browser alone.
const LOOKS: [&str; 3] = ["/theme/", "/units/", "/clock/"];
/// What pages are made of.
const MADE_OF: [&str; 4] = ["/assets/", "/worker.js", "/favicon.ico", "/manifest.webmanifest"];

/// Why something is not done.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Refused {
    /// It is done at the machine only: nothing is told.
    AtTheMachine,
    /// Another role may.
    ByRole,
}

/// Whether a device of this role may.
pub(super) fn may(role: Role, method: &Method, path: &str) -> Result<(), Refused> {
    let under = |begin: &str| {
        path.strip_prefix(begin).is_some_and(|rest| rest.is_empty() || rest.starts_with('/'))
    };
    if AT_THE_MACHINE.into_iter().any(under) {
        return Err(Refused::AtTheMachine);
    }
    let looks = matches!(*method, Method::GET | Method::HEAD);
    let begins = |with: &str| path.starts_with(with);
    let of_rig =
        path.strip_prefix("/rigs/").and_then(|rest| rest.split_once('/')).map(|(_, of)| of);
    let part = of_rig.map(|of| of.split('/').next().unwrap_or(of));
    let allowed = match role {
        _ if LOOKS.into_iter().any(begins) => true,
        Role::Everything => true,
        Role::Log => looks || matches!(part, Some("log" | "live")),
        Role::Watch => {
            looks
                && (path == "/"
                    || matches!(of_rig, Some("live" | "live/events"))
                    || MADE_OF.into_iter().any(begins))
        }
    };
    if allowed { Ok(()) } else { Err(Refused::ByRole) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_role_does_what_it_may() {
        let (get, post) = (Method::GET, Method::POST);
        let watch = [
            (&get, "/rigs/1/live"),
            (&get, "/rigs/1/live/events"),
            (&get, "/assets/app.css"),
            (&post, "/units/us"),
            (&get, "/"),
        ];
        let log = [
            (&get, "/rigs/1/board"),
            (&post, "/rigs/1/log/new/outing"),
            (&post, "/rigs/1/live/read"),
            (&get, "/rigs/1/plan.json"),
            (&get, "/rigs"),
        ];
        let all = [
            (&post, "/rigs/1/packs/1"),
            (&post, "/rigs/1/logs"),
            (&post, "/plan/take"),
            (&post, "/api/evaluate"),
            (&post, "/rigs/1/archive"),
            (&post, "/rigs/1/shelf/undo"),
        ];
        for (n, acts) in [&watch[..], &log, &all].into_iter().enumerate() {
            for (method, path) in acts {
                let can = Role::ALL.map(|role| may(role, method, path).is_ok());
                assert_eq!(can, [n < 1, n < 2, n < 3], "{method} {path}");
            }
        }
        for path in
            ["/share", "/share/events", "/data", "/data/delete", "/data/lake-hour-backup.db"]
        {
            for role in Role::ALL {
                assert_eq!(may(role, &get, path), Err(Refused::AtTheMachine));
            }
        }
    }
}
