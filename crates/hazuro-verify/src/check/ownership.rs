//! What may belong to somebody, and never does.

use hazuro::scene::{Action, Detector, Field, Owners, Reaction};
use hazuro::{EntityId, Scene};
use hazuro_format::Code;

use super::Checker;
use crate::meaning::may_mean;

pub(super) fn check(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    let mut told: Vec<Field> = Vec::new();
    for id in scene.ids() {
        let Some(ownership) = scene.ownership_of(id) else { continue };
        let place = checker.place(id, Detector::Ownership.word());
        if ownership.secret || told.contains(&place) || is_got(checker, id, &ownership.by) {
            continue;
        }
        let name = scene.name(id);
        let message = format!("`{name}` never belongs to anybody");
        let help = match ownership.by {
            Owners::First | Owners::Team(_) => format!(
                "give it a `carry` or a `drag`, or let an action give it: {{ own = \"{name}\", to = \
                 \"who\" }}"
            ),
            Owners::Host => {
                format!("let an action give it: {{ own = \"{name}\", to = \"who\" }}")
            }
            Owners::Creator => {
                "let an action bring it out: { spawn = \"its kind\", at = \"on\" }, \
                                or give it"
                    .into()
            }
        };
        checker.warn(&place, Code::NeverOwned, message, help);
        told.push(place);
    }
}

/// Whether something may come to belong to somebody.
fn is_got(checker: &Checker<'_>, id: EntityId, by: &Owners) -> bool {
    let scene = checker.scene;
    let is_taken = matches!(by, Owners::First | Owners::Team(_))
        && (scene.carry_of(id).is_some()
            || scene.pointer_of(id).is_some_and(|pointer| pointer.drag.is_some()));
    let scripted = || !scene.scripts().is_empty() && checker.scripts.may("own");
    is_taken || is_given(scene, id, by) || scripted()
}

/// Whether an action gives something to somebody.
fn is_given(scene: &Scene, id: EntityId, by: &Owners) -> bool {
    let gives = |action: &Action| match action {
        Action::Own { what, .. } | Action::Grab { what, .. } => may_mean(scene, what, id),
        Action::Grant { grant, .. } => {
            grant.hands.as_deref().is_some_and(|thing| scene.find(thing) == Some(id))
        }
        Action::Spawn { kind, .. } => *by == Owners::Creator && scene.is_of_kind(id, kind),
        _ => false,
    };
    let mut done = scene.reactions().iter().flat_map(Reaction::actions);
    let mut pickups = scene.ids().filter_map(|pickup| scene.pickup_of(pickup));
    done.any(|(.., action)| gives(action))
        || pickups.any(|pickup| {
            pickup.grant.hands.as_deref().is_some_and(|it| scene.find(it) == Some(id))
        })
}
