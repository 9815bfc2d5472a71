//! What is written and never asked for, told and never heard, begun in one place and ended in
//! another; zones on one spot, rays that end at the feet.

use std::collections::BTreeSet;

use hazuro::scene::{Action, EventKind, Field, Grant, Probe, Reaction, Selector, Trigger, nearest};
use hazuro::{EntityId, Scene};
use hazuro_format::{Code, Cure};

use super::Checker;
use super::asked;

/// So near, in metres, that it is chance whether a ray still reaches something.
const HAIR: f64 = 1e-6;

pub(super) fn check(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    for sort in ["count", "flag"] {
        never_written(checker, sort);
    }
    for (index, reaction) in scene.reactions().iter().enumerate() {
        let field = Field::ROOT.key("reaction").item(index);
        ends_elsewhere(checker, reaction, &field);
        nobody_yet(checker, reaction, &field);
    }
    for id in scene.described() {
        unheard_inside(checker, id);
        ends_at_feet(checker, id);
    }
    same_spot(checker);
}

/// The counts or flags that actions and pickups write, their own ones too.
fn written<'a>(scene: &'a Scene, sort: &str) -> BTreeSet<&'a str> {
    fn granted<'a>(grant: &'a Grant, sort: &str, all: &mut BTreeSet<&'a str>) {
        if sort == "count" {
            all.extend(grant.counts.keys().chain(grant.own_counts.keys()).map(String::as_str));
        } else {
            all.extend(grant.flags.iter().map(String::as_str));
        }
    }
    let mut all = BTreeSet::new();
    for (.., action) in scene.reactions().iter().flat_map(Reaction::actions) {
        match action {
            Action::Count { name, .. } if sort == "count" => drop(all.insert(name.as_str())),
            Action::Flag { name, .. } if sort == "flag" => drop(all.insert(name.as_str())),
            Action::Grant { grant, .. } => granted(grant, sort, &mut all),
            _ => {}
        }
    }
    for id in scene.described() {
        if let Some(pickup) = scene.pickup_of(id) {
            granted(&pickup.grant, sort, &mut all);
        }
    }
    all
}

/// A condition on a count or flag that nothing writes, while one of nearly that name is written and
/// nothing asks for it.
fn never_written(checker: &mut Checker<'_>, sort: &str) {
    let scene = checker.scene;
    let calls = |reaction: &Reaction| {
        reaction.actions().any(|(.., action)| matches!(action, Action::Call(_)))
    };
    // What scripts read and write is not known.
    if scene.reactions().iter().any(calls) {
        return;
    }
    let written = written(scene, sort);
    let asked = |text: &str| -> Vec<String> {
        asked::asked(text, sort).map(|(_, name)| name.to_owned()).collect()
    };
    let conditions = || {
        let all = scene.reactions().iter().enumerate();
        all.filter_map(|(index, it)| Some((index, it.condition()?.text())))
    };
    let mut read = checker.asked_for(sort);
    for id in scene.described() {
        let needs = scene.prompt_of(id).map(|prompt| &prompt.needs);
        read.extend(needs.into_iter().flat_map(|needs| needs.counts.keys().cloned()));
    }
    for (index, text) in conditions() {
        for name in asked(text).iter().filter(|name| !written.contains(name.as_str())) {
            let unread = written.iter().copied().filter(|other| !read.contains(*other));
            let Some(meant) = nearest(name, unread) else { continue };
            let verb = if sort == "count" { "counts" } else { "raises" };
            let message = format!(
                "nothing {verb} `{name}`, and nothing asks for `{meant}`, which is written"
            );
            let field = Field::ROOT.key("reaction").item(index).key("if");
            checker.warn(&field, Code::NeverWritten, message, Cure::meant(name, meant));
        }
    }
}

/// A reaction that begins with one detector and is ended by the same sort of another.
fn ends_elsewhere(checker: &mut Checker<'_>, reaction: &Reaction, field: &Field) {
    let scene = checker.scene;
    let detected = |trigger: &Trigger| match trigger {
        Trigger::Detected { event, on, .. } => Some((*event, scene.select(on).ok()?)),
        _ => None,
    };
    for (end, ends) in reaction.enders().iter().filter_map(detected) {
        let begins = reaction.triggers().iter().filter_map(detected).find(|(begin, on)| {
            begin.is_opening()
                && end.is_closing()
                && begin.detector() == end.detector()
                && !on.is_empty()
                && !on.iter().any(|id| ends.contains(id))
        });
        let Some(((_, on), end_on)) = begins.zip(ends.first()) else { continue };
        let (begin, end_name) = (scene.name(on[0]), scene.name(*end_on));
        let message = format!("this begins on `{begin}` and is ended by `{end}` of `{end_name}`");
        let help = format!("if the same one is meant: until = {{ {end} = \"{begin}\" }}");
        checker.hint(&field.key("until"), Code::EndsElsewhere, message, help);
    }
}

/// A reaction to what detects and is of a kind, while nothing of it has such a detector yet.
fn nobody_yet(checker: &mut Checker<'_>, reaction: &Reaction, field: &Field) {
    let scene = checker.scene;
    let lists = [("on", reaction.triggers()), ("until", reaction.enders())];
    for (key, triggers) in lists {
        for (number, trigger) in triggers.iter().enumerate() {
            let Trigger::Detected { event, on, .. } = trigger else { continue };
            let (Some(detector), Ok(meant)) = (event.detector(), scene.select(on)) else {
                continue;
            };
            if meant.iter().any(|id| scene.has(*id, detector)) || is_given(scene, on) {
                continue;
            }
            let list = field.key(key);
            let list = if triggers.len() > 1 { list.item(number) } else { list };
            let message = format!("nothing in the scene is `{on}`, so this never happens");
            let help = "add an entity of it, or give its kind a `stock`; if a program adds them while \
                        it plays: allow = { nobody-yet = \"the program adds them\" }";
            checker.warn(&list.key(event.word()), Code::NobodyYet, message, help);
        }
    }
}

/// Whether a selector means a tag that something gives, or that a script might give.
fn is_given(scene: &Scene, selector: &Selector) -> bool {
    let Selector::Tag(wanted) = selector else { return false };
    let grants = |grant: &Grant| grant.tags.contains(wanted);
    let mut actions = scene.reactions().iter().flat_map(Reaction::actions);
    actions.any(|(.., action)| match action {
        Action::Tag { tag, .. } => tag == wanted,
        Action::Grant { grant, .. } => grants(grant),
        Action::Call(_) => true,
        _ => false,
    }) || scene.described().filter_map(|id| scene.pickup_of(id)).any(|it| grants(&it.grant))
}

/// A zone that tells `inside` again and again, and nothing waits for it.
fn unheard_inside(checker: &mut Checker<'_>, id: EntityId) {
    let scene = checker.scene;
    let Some(every) = scene.inside_every(id) else { return };
    let triggers = scene.reactions().iter().flat_map(|it| it.triggers().iter().chain(it.enders()));
    let mut waited = triggers.filter_map(|trigger| match trigger {
        Trigger::Detected { event: EventKind::Inside, on, .. } => scene.select(on).ok(),
        _ => None,
    });
    if waited.any(|on| on.contains(&id)) {
        return;
    }
    let message =
        format!("`{}` tells `inside` each {every} s, and no reaction waits for it", scene.name(id));
    let help = "take `inside_every` away, unless a program listens to it";
    let field = checker.place(id, "zone").key("inside_every");
    checker.hint(&field, Code::UnheardInside, message, help);
}

/// A ray straight down that ends exactly at the feet of its body.
fn ends_at_feet(checker: &mut Checker<'_>, id: EntityId) {
    let scene = checker.scene;
    let Some(Probe { from, to, .. }) = scene.probe_of(id) else { return };
    let plumb = (from[0] - to[0]).abs() < HAIR && (from[2] - to[2]).abs() < HAIR;
    let body = scene.lineage(id).find(|it| scene.has_body(*it));
    let Some(bounds) = body.and_then(|body| scene.body_bounds(body, &scene.pose(body))) else {
        return;
    };
    let end = scene.pose(id).point((*to).into()).y;
    if !plumb || (end - bounds.min.y).abs() > HAIR || to[1] >= from[1] {
        return;
    }
    let name = scene.name(id);
    let message = format!(
        "the ray of `{name}` ends exactly at the feet: it is chance whether it reaches the ground"
    );
    let farther = serde_json::json!([to[0], ((to[1] - 0.05) * 1e6).round() / 1e6, to[2]]);
    let help = format!("let it reach a little farther: to = {farther}");
    let table = checker.place(id, "probe");
    checker.warn(&table.key("to"), Code::EndsAtFeet, message, help);
    checker.cure(|file| Some(vec![file.set(&table, "to", &farther)?]));
}

/// Two zones of one shape on one spot that admit the same, both waited for.
fn same_spot(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    let waited: BTreeSet<EntityId> = scene
        .reactions()
        .iter()
        .flat_map(Reaction::triggers)
        .filter_map(|trigger| match trigger {
            Trigger::Detected { event: EventKind::Enter | EventKind::Exit, on, .. } => {
                scene.select(on).ok()
            }
            _ => None,
        })
        .flatten()
        .collect();
    let mut zones: Vec<EntityId> =
        scene.described().filter(|id| scene.has_zone(*id) && waited.contains(id)).collect();
    let bounds = |id: EntityId| scene.zone_form(id).map(|form| form.bounds(&scene.pose(id)));
    // What lies on one spot is side by side in this order.
    let key = |id: &EntityId| bounds(*id).map(|it| (it.min.to_array().map(f64::to_bits), *id));
    zones.sort_by_key(key);
    for pair in zones.windows(2) {
        let [one, other] = [pair[0].min(pair[1]), pair[0].max(pair[1])];
        let alike = bounds(one) == bounds(other)
            && scene.pose(one) == scene.pose(other)
            && scene.admit_of(one) == scene.admit_of(other);
        if !alike {
            continue;
        }
        let (first, second) = (scene.name(one), scene.name(other));
        let message = format!("`{second}` is the same zone as `{first}`, on the same spot");
        let help = format!("move one of them, or let the reactions wait for `{first}` alone");
        let field = checker.place(other, "at");
        checker.hint(&field, Code::SameSpot, message, help);
    }
}
