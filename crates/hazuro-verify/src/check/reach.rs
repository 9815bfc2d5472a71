//! Who can set off what.

use std::collections::{BTreeMap, HashSet};

use hazuro::scene::{Among, Detector, Reaction, Scope};
use hazuro::{EntityId, Scene};
use hazuro_format::Code;

use super::{Checker, can_be_converted, can_be_switched_on};
use crate::why::selects;

pub(super) fn check(checker: &mut Checker<'_>) {
    let mut subjects = Subjects::default();
    for id in checker.scene.ids() {
        entity(checker, &mut subjects, id);
    }
}

/// What may be detected, by what is looked for: an entity unlike all before it comes first.
#[derive(Default)]
struct Subjects(BTreeMap<(bool, bool, bool, bool), Vec<EntityId>>);

/// Whom a detector may detect.
#[derive(Clone, Copy)]
struct Wanted {
    among: Among,
    players: bool,
    /// What such a subject has, in words.
    what: &'static str,
}

impl Subjects {
    fn of(&mut self, scene: &Scene, wanted: Wanted) -> &[EntityId] {
        let Wanted { among, players, .. } = wanted;
        let key = (among.solids, among.bodies, among.zones, players);
        self.0.entry(key).or_insert_with(|| {
            let fits = |id: &EntityId| {
                scene.is_among(*id, among) && (!players || scene.is_player(*id))
                    || (players && !among.bodies && scene.is_player(*id))
            };
            // Whether one is admitted depends on little: of those alike one is asked first.
            let mut seen = HashSet::new();
            let (mut first, mut rest) = (Vec::new(), Vec::new());
            for id in scene.ids().filter(fits) {
                let kinds: Vec<&str> = scene.kinds_of(id).map(hazuro::scene::Kind::name).collect();
                let tags: Vec<&str> = scene.tags_of(id).collect();
                let like = (kinds, tags, scene.layers_of(id), scene.is_player(id));
                let list = if seen.insert(like) { &mut first } else { &mut rest };
                list.push(id);
            }
            first.append(&mut rest);
            first
        })
    }
}

fn entity(checker: &mut Checker<'_>, subjects: &mut Subjects, id: EntityId) {
    let scene = checker.scene;
    let found: Vec<Detector> = Detector::ALL
        .into_iter()
        .filter(|sort| sort.opens().is_some() && scene.has(id, *sort))
        .collect();
    if found.is_empty() {
        if scene.entity(id).own_admit().is_some() {
            admits_to_nothing(checker, id);
        }
        return;
    }
    for detector in &found {
        // A zone may be there to be pointed at, and for nothing else.
        let shape_only = *detector == Detector::Zone && found.contains(&Detector::Pointer);
        if shape_only && !is_waited_for(scene, id, *detector) {
            continue;
        }
        never_set_off(checker, subjects, id, *detector);
    }
    off_for_good(checker, id, found[0]);
}

/// Whether a reaction waits for a detector of an entity.
fn is_waited_for(scene: &Scene, id: EntityId, detector: Detector) -> bool {
    let triggers = scene.reactions().iter().flat_map(Reaction::triggers);
    let mut waiting = triggers.filter(|trigger| trigger.event().detector() == Some(detector));
    waiting.any(|trigger| trigger.detectors().is_some_and(|on| selects(scene, on, id)))
}

fn admits_to_nothing(checker: &mut Checker<'_>, id: EntityId) {
    let scene = checker.scene;
    let name = scene.name(id);
    let detects = |other: &EntityId| {
        *other != id
            && Detector::ALL
                .into_iter()
                .any(|sort| sort.opens().is_some() && scene.has(*other, sort))
    };
    let below = scene.family(id).find(detects);
    let above = scene.lineage(id).find(detects);
    let (message, help) = match below.or(above) {
        Some(other) => {
            let (other, relation) =
                (scene.name(other), if below.is_some() { "child" } else { "parent" });
            (
                format!(
                    "`{name}` says whom to admit, but the detector is on its {relation} `{other}`"
                ),
                format!("move `admit` to `{other}`, or the detector to `{name}`"),
            )
        }
        None => (
            format!("`{name}` says whom to admit, but has no detector"),
            "give it a zone or another detector, or take `admit` away".into(),
        ),
    };
    let field = checker.place(id, "admit");
    checker.warn(&field, Code::AdmitsToNothing, message, help);
    let other = below.or(above).filter(|other| scene.admit_of(*other).is_none());
    if let Some(other) = other {
        let to = checker.scene.field(other);
        checker.cure(|file| {
            Some(vec![file.set_text(&to, "admit", file.text_of(&field)?)?, file.remove(&field)?])
        });
    }
}

/// Whom a detector could detect, if it admitted them.
fn wanted(scene: &Scene, id: EntityId, detector: Detector) -> Wanted {
    let Scope { among, players, .. } = scene.scope_of(id, detector).unwrap_or_default();
    let what = match (among, players) {
        (Among { bodies: true, .. }, true) => "is a player with a body",
        (_, true) => "is a player",
        (Among { bodies: true, solids: false, zones: false }, _) => "has a body",
        (Among { bodies: false, solids: true, zones: false }, _) => "is solid",
        _ => "is of what it looks for",
    };
    Wanted { among, players, what }
}

fn never_set_off(
    checker: &mut Checker<'_>,
    subjects: &mut Subjects,
    id: EntityId,
    detector: Detector,
) {
    let scene = checker.scene;
    let name = scene.name(id);
    let wanted = wanted(scene, id, detector);
    let scope = scene.scope_of(id, detector).unwrap_or_default();
    let (what, subjects) = (wanted.what, subjects.of(scene, wanted));
    let key = key_of(scene, id, detector);
    if subjects.is_empty() {
        let message = format!("nothing can set off `{name}`: no entity in the scene {what}");
        let help = match scope {
            Scope { players: true, .. } => "give an entity player = true",
            Scope { among: Among { bodies: false, solids: true, .. }, .. } => {
                "give an entity a solid"
            }
            _ => "give an entity a body",
        };
        let field = checker.place(id, key);
        checker.warn(&field, Code::NeverSetOff, message, help);
        return;
    }
    // A detector does not detect its carrier, nor what it carries.
    let able = |other: &EntityId| {
        scope.itself || (scene.may_admit(id, *other) && scene.are_apart(id, *other))
    };
    if subjects.iter().any(able) {
        return;
    }
    // Converted, it may admit others, or others may be in other layers.
    let convertible = |id: &EntityId| can_be_converted(scene, checker.scripts, *id);
    if convertible(&id) || subjects.iter().any(convertible) {
        return;
    }
    let admitted = subjects.iter().any(|other| scene.may_admit(id, *other));
    let rule = scene.entity(id).own_admit().is_some();
    let field = if rule { checker.place(id, "admit") } else { checker.place(id, key) };
    let message = if admitted {
        format!("nothing can set off `{name}`: all that it admits carry it, or are carried by it")
    } else {
        format!("nothing can set off `{name}`: it admits no entity that {what}")
    };
    let names: Vec<_> = subjects.iter().take(4).map(|id| scene.name(*id)).collect();
    let those = if what == "has a body" { "those with a body are" } else { "there are" };
    let help = format!("{those} {}: does one lack a tag?", names.join(", "));
    checker.warn(&field, Code::NeverSetOff, message, help);
}

fn off_for_good(checker: &mut Checker<'_>, id: EntityId, detector: Detector) {
    let scene = checker.scene;
    let for_good = |id: &EntityId| {
        !scene.starts_enabled(*id) && !can_be_switched_on(scene, checker.scripts, *id)
    };
    let Some(off) = scene.lineage(id).find(for_good) else { return };
    let name = scene.name(id);
    let off_name = scene.name(off);
    let message = if off == id {
        format!("nothing can set off `{name}`: it is off, and nothing switches it on")
    } else {
        format!(
            "nothing can set off `{name}`: its ancestor `{off_name}` is off, and nothing switches \
             that on"
        )
    };
    let help = format!(
        "let it begin on: enabled = true, or add {{ enable = \"{off_name}\" }} to a reaction"
    );
    let key = key_of(scene, id, detector);
    let field = if scene.entity(id).own_enabled().is_some() {
        checker.place(id, "enabled")
    } else {
        checker.place(id, key)
    };
    checker.warn(&field, Code::OffForGood, message, help);
    let (table, on) = (checker.scene.field(off), true.into());
    checker.cure(|file| Some(vec![file.set(&table, "enabled", &on)?]));
}

/// The key under which a detector stands.
fn key_of(scene: &Scene, id: EntityId, detector: Detector) -> &'static str {
    match detector {
        Detector::Prompt if scene.prompt_of(id).is_some_and(|told| told.quiet) => "interact",
        other => other.word(),
    }
}
