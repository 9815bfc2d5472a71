//! Values and reactions that can never be what is waited for.

use hazuro::Scene;
use hazuro::geometry::{Aabb, Pose};
use hazuro::glam::DVec3;
use hazuro::scene::{Action, Change, Field, Quantity, Reaction};
use hazuro_format::Code;

use super::Checker;
use super::asked::words;

pub(super) fn check(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    for (index, reaction) in scene.reactions().iter().enumerate() {
        let field = Field::ROOT.key("reaction").item(index);
        passed_over(checker, reaction, &field);
        anothers_value(checker, reaction, &field);
        replaced_for_good(checker, reaction, &field);
    }
    bounds_elsewhere(checker);
}

/// All actions of the scene's reactions.
fn actions(scene: &Scene) -> impl Iterator<Item = &Action> {
    scene.reactions().iter().flat_map(Reaction::actions).map(|(.., action)| action)
}

/// Whether a script may change a value of this sort.
fn scripted(checker: &Checker<'_>, sort: &str) -> bool {
    let words: &[&str] = if sort == "count" { &["add", "set", "count"] } else { &["flag"] };
    actions(checker.scene).any(|action| matches!(action, Action::Call(_)))
        && words.iter().any(|word| checker.scripts.may(word))
}

/// `count.name == n` where the count grows in steps that pass over n.
fn passed_over(checker: &mut Checker<'_>, reaction: &Reaction, field: &Field) {
    let scene = checker.scene;
    let Some(condition) = reaction.condition() else { return };
    let text: String = condition.text().split_whitespace().collect();
    let Some((count, number)) = text.strip_prefix("count.").and_then(|rest| rest.split_once("=="))
    else {
        return;
    };
    let Ok(number) = number.parse::<i64>() else { return };
    if scripted(checker, "count") {
        return;
    }
    let granted = scene.described().filter_map(|id| scene.pickup_of(id));
    if granted.into_iter().any(|pickup| pickup.grant.counts.contains_key(count)) {
        return;
    }
    let mut steps = Vec::new();
    for action in actions(scene) {
        match action {
            Action::Count { name, of: None, change } if name == count => match change {
                Change::Add(Quantity::Fixed(step)) => steps.push(*step),
                Change::Add(Quantity::Formula(_)) | Change::Set(_) => return,
            },
            Action::Grant { grant, .. } if grant.counts.contains_key(count) => return,
            _ => {}
        }
    }
    let start = scene.counts().get(count).copied().unwrap_or_default();
    let [step, rest @ ..] = steps.as_slice() else { return };
    let alike = *step != 0 && rest.iter().all(|other| other == step);
    let reached = alike && (number - start) % step == 0 && (number - start) / step >= 0;
    if alike && !reached {
        let message = format!(
            "`{count}` is never {number}: it starts at {start} and changes by {step} each time"
        );
        let help = format!("ask for at least as much: count.{count} >= {number}");
        checker.warn(&field.key("if"), Code::PassedOver, message, help);
        checker.cure(|file| Some(vec![file.within(&field.key("if"), "==", ">=")?]));
    }
}

/// A condition on a count or flag of somebody that only the scene's is ever changed of, or the
/// reverse.
fn anothers_value(checker: &mut Checker<'_>, reaction: &Reaction, field: &Field) {
    let scene = checker.scene;
    let Some(condition) = reaction.condition() else { return };
    for path in words(condition.text()) {
        let mut ends = path.rsplit('.');
        let (Some(name), Some(sort)) = (ends.next(), ends.next()) else { continue };
        let own = ends.next().is_some();
        if !["count", "flag"].contains(&sort) || scripted(checker, sort) {
            continue;
        }
        // Whether somebody's own is changed, and whether the scene's is.
        let mut changed = [false; 2];
        let mut note = |of: bool| changed[usize::from(of)] = true;
        for action in actions(scene) {
            match action {
                Action::Count { name: its, of, .. } if sort == "count" && its == name => {
                    note(of.is_some());
                }
                Action::Flag { name: its, of, .. } if sort == "flag" && its == name => {
                    note(of.is_some());
                }
                Action::Grant { grant, .. } => granted(grant, (sort, name), &mut note),
                _ => {}
            }
        }
        for id in scene.described() {
            if let Some(pickup) = scene.pickup_of(id) {
                granted(&pickup.grant, (sort, name), &mut note);
            }
        }
        let given = !own
            && (scene.counts().contains_key(name) || scene.flag_names().any(|flag| flag == name));
        if changed[usize::from(!own)] && !changed[usize::from(own)] && !(given && sort == "count") {
            let (asked, other) = if own {
                ("somebody's own", "the scene's")
            } else {
                ("the scene's", "somebody's own")
            };
            let message = format!(
                "`{path}` asks for {asked} {sort} `{name}`, and only {other} is ever changed"
            );
            let help = if own {
                format!("let the action say whose: of = \"who\", or ask for {sort}.{name}")
            } else {
                format!("take `of` away from the action, or ask for who.{sort}.{name}")
            };
            checker.warn(&field.key("if"), Code::AnothersValue, message, help);
        }
    }
}

fn granted(grant: &hazuro::scene::Grant, (sort, name): (&str, &str), note: &mut impl FnMut(bool)) {
    if sort == "count" && grant.counts.contains_key(name)
        || sort == "flag" && grant.flags.iter().any(|flag| flag == name)
    {
        note(false);
    }
    if sort == "count" && grant.own_counts.contains_key(name) {
        note(true);
    }
}

/// A reaction that is replaced wherever it would react.
fn replaced_for_good(checker: &mut Checker<'_>, reaction: &Reaction, field: &Field) {
    let scene = checker.scene;
    let Some(name) = reaction.replaces() else { return };
    let Some(other) = scene.reactions().iter().find(|it| it.name() == Some(name)) else { return };
    if other.triggers().iter().all(|trigger| reaction.triggers().contains(trigger)) {
        let message = format!("`{name}` never reacts: this replaces it at all that it waits for");
        let help = format!(
            "let `{name}` wait for more, as on = {{ enter = \"kind:...\" }}, or take it away"
        );
        checker.warn(&field.key("instead_of"), Code::ReplacedForGood, message, help);
    }
}

/// A spawner whose bounds lie elsewhere: what it brings out is taken back at once.
fn bounds_elsewhere(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    for id in scene.described() {
        let Some(bounds) = scene.spawner_of(id).and_then(|it| it.bounds.as_deref()) else {
            continue;
        };
        let Some(around) = scene.find(bounds) else { continue };
        let Some(limit) = scene.zone_form(around) else { continue };
        let place = |entity| scene.pose(entity);
        let (limit, here): (_, Pose) = (limit.bounds(&place(around)), place(id));
        let meets = match scene.zone_form(id) {
            Some(zone) => limit.meets(&zone.bounds(&here)),
            None => limit.meets(&Aabb::around(here.position, DVec3::ZERO)),
        };
        if !meets {
            let message = format!(
                "what `{}` brings out is never within `{bounds}`, so it is taken back at once",
                scene.name(id)
            );
            let help = "let the bounds reach over the spawner";
            let field = checker.place(id, "spawner");
            checker.warn(&field, Code::BoundsElsewhere, message, help);
        }
    }
}
