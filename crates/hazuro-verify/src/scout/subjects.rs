//! Who is sent to detectors: one of each sort.

use std::collections::HashSet;

use hazuro::scene::Kind;
use hazuro::{EntityId, Scene};

/// One of a sort.
pub(super) struct Subject {
    pub who: EntityId,
    /// The sort: its kind, or its name if it has none.
    pub label: String,
}

/// Whether somebody may be sent: a body, or a player who points without one. What is carried along
/// goes where its carrier goes.
pub(super) fn is_sent(scene: &Scene, who: EntityId) -> bool {
    let points = scene.is_player(who) && scene.camera_of(who).is_some();
    (scene.has_body(who) || points) && scene.parent(who).is_none() && scene.starts_enabled(who)
}

/// One of each sort, in the scene's order. Two are of one sort if no rule can tell them apart but
/// by name.
pub(super) fn of(scene: &Scene) -> Vec<Subject> {
    let mut seen = HashSet::new();
    let mut subjects = Vec::new();
    for who in scene.described().filter(|who| is_sent(scene, *who)) {
        let kinds: Vec<&str> = scene.kinds_of(who).map(Kind::name).collect();
        let kind = kinds.first().copied();
        let tags: Vec<&str> = scene.tags_of(who).collect();
        let own = scene.entity(who).own_body().is_some() && kind.is_some();
        let alone = kind.is_none().then(|| scene.name(who));
        let like = (kinds, tags, scene.layers_of(who), scene.is_player(who), own, alone);
        if !seen.insert(like) {
            continue;
        }
        let name = scene.name(who);
        let label = match kind {
            Some(kind) if !own => kind.to_owned(),
            _ => name.to_owned(),
        };
        subjects.push(Subject { who, label });
    }
    subjects
}
