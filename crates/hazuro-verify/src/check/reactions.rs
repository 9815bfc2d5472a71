//! Reactions that wait for what never comes, and actions that undo what nobody did.

use std::collections::BTreeSet;

use hazuro::scene::{
    Action, Destination, Detector, EventKind, Field, Move, Needs, Reaction, Switch, Trigger,
    nearest,
};
use hazuro::{EntityId, Scene};
use hazuro_format::{Code, Cure};
use hazuro_script::Scripts;

use super::Checker;
use super::senses::is_endless;

pub(super) fn check(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    let undone = Undone::of(scene, checker.scripts);
    for (index, reaction) in scene.reactions().iter().enumerate() {
        let field = Field::ROOT.key("reaction").item(index);
        never_happens(checker, reaction, &field);
        unsent(checker, reaction, &field);
        if is_endless(reaction.cooldown_seconds()) {
            let hours = reaction.cooldown_seconds() / 3600.0;
            let message = format!("the cooldown is over only after {hours:.0} hours");
            let help = "it is in seconds; for once and never again say once = true";
            checker.warn(&field.key("cooldown"), Code::NeverOver, message, help);
        }
        if reaction.most_times() == Some(0) {
            let message = "this reaction never acts: its limit is 0".into();
            let help = "let it act at least once: limit = 1, or take it away";
            checker.warn(&field.key("limit"), Code::UsedUp, message, help);
        }
        for (action, place) in actions(reaction, &field) {
            undone.check(checker, action, &place);
        }
        restores(checker, reaction, &field);
        hides_only(checker, reaction, &field);
    }
}

/// The actions of a reaction with their places.
pub(super) fn actions<'a>(
    reaction: &'a Reaction,
    field: &'a Field,
) -> impl Iterator<Item = (&'a Action, Field)> {
    let several = reaction.sequences().len() > 1;
    reaction.actions().map(move |(key, number, place, action)| {
        let field = field.key(key);
        let field = if several && key == "do" { field.item(number) } else { field };
        (action, field.item(place))
    })
}

/// The place of a trigger of a reaction.
fn trigger_place(field: &Field, trigger: &Trigger) -> Field {
    match trigger {
        Trigger::Detected { event, .. } => field.key("on").key(event.word()),
        _ => field.key("on"),
    }
}

/// Events that no detector of those meant ever tells.
fn never_happens(checker: &mut Checker<'_>, reaction: &Reaction, field: &Field) {
    let scene = checker.scene;
    for trigger in reaction.triggers() {
        let Trigger::Detected { event, on, of, .. } = trigger else { continue };
        let Ok(all) = scene.select(on) else { continue };
        let mut why = None;
        let may = all.iter().any(|id| match may_tell(scene, *id, *event, of.as_deref()) {
            Ok(()) => true,
            Err((reason, cure)) => {
                why = why.or(Some((*id, reason, cure)));
                false
            }
        });
        if let (false, Some((id, reason, cure))) = (may, why) {
            let name = scene.name(id);
            let message = format!("`{name}` never tells `{event}`: {reason}");
            let field = trigger_place(field, trigger);
            checker.warn(&field, Code::NeverHappens, message, cure);
            let instead = match event {
                EventKind::Accept if scene.has(id, Detector::Prompt) => EventKind::Interact,
                EventKind::Interact => EventKind::Accept,
                _ => continue,
            };
            checker.cure(|file| Some(vec![file.rename(&field, instead.word())?]));
        }
    }
}

/// Whether a detector tells an event at all; else why not, and the cure.
fn may_tell(
    scene: &Scene,
    id: EntityId,
    event: EventKind,
    of: Option<&str>,
) -> Result<(), (&'static str, &'static str)> {
    use EventKind as Kind;
    let prompt = scene.prompt_of(id);
    let quiet = prompt.is_some_and(|prompt| prompt.quiet);
    let hold = prompt.is_some_and(|prompt| prompt.hold > 0.0);
    let stat = of.and_then(|name| scene.stat(id, scene.stat_id(name).ok()?));
    let lacks = match event {
        Kind::Inside if scene.inside_every(id).is_none() => {
            ("its zone has no interval", "give the zone inside_every = seconds")
        }
        Kind::Drag if scene.pointer_of(id).is_some_and(|pointer| pointer.drag.is_none()) => {
            ("it cannot be dragged", "give the pointer a drag = { axis = [1, 0, 0] } or plane")
        }
        Kind::Accept | Kind::Offer | Kind::Withdraw if quiet => {
            ("it makes no offers", "wait for `interact`, or give it a `prompt`")
        }
        Kind::Interact if prompt.is_some() && !quiet => {
            ("a prompt tells `accept`", "wait for `accept`, or give it `interact`")
        }
        Kind::Hold | Kind::Cancel if prompt.is_some() && !hold => {
            ("its key need not be held", "give the prompt a hold = seconds")
        }
        Kind::Refused if prompt.is_some_and(|prompt| prompt.needs == Needs::default()) => {
            ("it needs nothing, so nobody is refused", "give the prompt `needs`")
        }
        Kind::Respawn if scene.pickup_of(id).is_some_and(|pickup| pickup.back_after.is_none()) => {
            ("it never comes back", "give the pickup a back_after = seconds")
        }
        Kind::Full if stat.is_some_and(|stat| stat.most == f64::INFINITY) => {
            ("that stat has no most", "give the stat a `max`")
        }
        Kind::Empty if stat.is_some_and(|stat| stat.least == f64::NEG_INFINITY) => {
            ("that stat has no least", "give the stat a `min`")
        }
        _ => return Ok(()),
    };
    Err(lacks)
}

/// Cues that are waited for and never sent, while one of nearly that name is.
fn unsent(checker: &mut Checker<'_>, reaction: &Reaction, field: &Field) {
    let scene = checker.scene;
    for trigger in reaction.triggers().iter().chain(reaction.enders()) {
        let Trigger::Cue(name) = trigger else { continue };
        let all = || scene.reactions().iter().flat_map(Reaction::actions);
        let (by_scripts, awaited) = (checker.scripts.cues(), checker.scripts.awaited_cues());
        let sent: BTreeSet<&str> = all()
            .filter_map(|(.., action)| match action {
                Action::Cue { name, .. } => Some(name.as_str()),
                _ => None,
            })
            .chain(by_scripts.iter().map(String::as_str))
            .collect();
        if sent.contains(name.as_str()) {
            continue;
        }
        // What else waits for is likely to be sent by somebody outside.
        let heard: BTreeSet<&str> = scene
            .reactions()
            .iter()
            .flat_map(Reaction::triggers)
            .filter_map(|trigger| match trigger {
                Trigger::Cue(other) => Some(other.as_str()),
                _ => None,
            })
            .chain(awaited.iter().map(String::as_str))
            .collect();
        let unheard = sent.iter().copied().filter(|sent| !heard.contains(sent));
        if let Some(nearest) = nearest(name, unheard) {
            let message = format!("no action sends the cue `{name}`");
            let help = Cure::meant(name, nearest).and("It is sent, and nothing waits for it.");
            checker.warn(&field.key("on"), Code::UnsentCue, message, help);
        }
    }
}

/// What actions can be undone, and what has been done at all.
struct Undone {
    /// The names in movements away from home.
    moved: Vec<String>,
    /// The effects that somebody is given.
    given: BTreeSet<String>,
    /// The tags that somebody has or is given.
    tags: BTreeSet<String>,
    attaches: bool,
    /// A function may do any of it.
    calls: bool,
}

impl Undone {
    fn of(scene: &Scene, scripts: &Scripts) -> Self {
        let mut undone = Self {
            moved: Vec::new(),
            given: BTreeSet::new(),
            tags: BTreeSet::new(),
            attaches: scene.described().any(|id| scene.parent(id).is_some()),
            calls: false,
        };
        for id in scene.described() {
            undone.tags.extend(scene.tags_of(id).map(Into::into));
            if let Some(pickup) = scene.pickup_of(id) {
                undone.given.extend(pickup.grant.effects.iter().cloned());
                undone.tags.extend(pickup.grant.tags.iter().cloned());
            }
        }
        for (.., action) in scene.reactions().iter().flat_map(Reaction::actions) {
            match action {
                Action::Move(Move { what, to, .. }) if *to != Destination::Home => {
                    undone.moved.push(what.clone());
                }
                Action::Teleport(teleport) => undone.moved.push(teleport.what.clone()),
                Action::Route { what, .. } | Action::Walk { what, .. } | Action::Drop(what) => {
                    undone.moved.push(what.clone());
                }
                Action::Lead(lead) => undone.moved.push(lead.what.clone()),
                Action::Throw(throw) => undone.moved.push(throw.what.clone()),
                Action::Attach { what, .. } => {
                    undone.attaches = true;
                    undone.moved.push(what.clone());
                }
                Action::Grab { what, .. } => undone.moved.push(what.clone()),
                Action::Effect { name, .. } => drop(undone.given.insert(name.clone())),
                Action::Tag { tag, .. } => drop(undone.tags.insert(tag.clone())),
                Action::Grant { grant, .. } => {
                    undone.given.extend(grant.effects.iter().cloned());
                    undone.tags.extend(grant.tags.iter().cloned());
                }
                Action::Call(_) => {
                    let words = ["move", "teleport", "run", "lead", "effect", "tag", "attach"];
                    undone.calls |= words.iter().any(|word| scripts.may(word));
                }
                _ => {}
            }
        }
        undone
    }

    fn check(&self, checker: &mut Checker<'_>, action: &Action, place: &Field) {
        if self.calls {
            return;
        }
        match action {
            Action::Move(Move { what, to: Destination::Home, .. }) => {
                let Some(meant) = checker.meant(what) else { return };
                let leaves = |name: &String| {
                    // A subject is a body or a solid; what detects may be moved by itself.
                    checker.meant(name).map_or(
                        name == "on" || meant.iter().any(|id| checker.scene.has_body(*id)),
                        |all| all.iter().any(|id| meant.contains(id)),
                    )
                };
                let scene = checker.scene;
                // What moves by itself leaves home by itself.
                let goes =
                    meant.iter().any(|id| scene.has_body(*id) || scene.route_of(*id).is_some());
                if !goes && !self.moved.iter().any(leaves) {
                    let message = format!("`{what}` is moved home, but nothing ever moves it away");
                    let help = "add the reaction that opens it, or take this one away";
                    checker.warn(&place.key("to"), Code::NeverLeftHome, message, help);
                }
            }
            Action::EndEffect { name, .. } if !self.given.contains(name) => {
                let message = format!("the effect `{name}` is ended, but nothing ever gives it");
                let help = format!("add {{ effect = \"{name}\", of = \"who\" }} to a reaction");
                checker.warn(&place.key("end_effect"), Code::NeverGiven, message, help);
            }
            Action::Untag { tag, .. } if !self.tags.contains(tag) => {
                let message = format!("the tag `{tag}` is taken away, but nothing ever has it");
                let help = "give it to an entity, or let a reaction give it";
                checker.warn(&place.key("untag"), Code::NeverGiven, message, help);
            }
            Action::Detach(what) if !self.attaches => {
                let message = format!("`{what}` is detached, but nothing is ever attached");
                let help = format!("attach it first: {{ attach = \"{what}\", to = \"...\" }}");
                checker.warn(&place.key("detach"), Code::NeverGiven, message, help);
            }
            _ => {}
        }
    }
}

/// A stat that is set, and after a wait set to a fixed number again.
fn restores(checker: &mut Checker<'_>, reaction: &Reaction, field: &Field) {
    use hazuro::scene::Change;
    let several = reaction.sequences().len() > 1;
    for (number, sequence) in reaction.sequences().iter().enumerate() {
        let mut changed: Vec<(&str, &str)> = Vec::new();
        let mut waited: Vec<(&str, &str)> = Vec::new();
        for (place, action) in sequence.iter().enumerate() {
            match action {
                Action::Wait(_) => waited.append(&mut changed),
                Action::Stat { name, of, change } => {
                    let key = (name.as_str(), of.as_str());
                    if matches!(change, Change::Set(_)) && waited.contains(&key) {
                        let at = field.key("do");
                        let at = if several { at.item(number) } else { at };
                        let message = format!(
                            "`{name}` is given a fixed number back, not what it was before"
                        );
                        let help = format!(
                            "use an effect, which ends by itself: [effect.name] stats = {{ {name} \
                             = {{ times = 2 }} }}, seconds = 8"
                        );
                        checker.warn(
                            &at.item(place).key("stat"),
                            Code::RestoresANumber,
                            message,
                            help,
                        );
                    }
                    changed.push(key);
                }
                _ => {}
            }
        }
    }
}

/// Something hidden that goes on blocking or detecting.
fn hides_only(checker: &mut Checker<'_>, reaction: &Reaction, field: &Field) {
    let scene = checker.scene;
    let off = |wanted: &str| {
        reaction.actions().any(|(.., action)| match action {
            Action::Switch { what, switch, to: Some(false) } => {
                what == wanted && *switch != Switch::Visible
            }
            Action::Remove(what) | Action::Collect { what, .. } => what == wanted,
            _ => false,
        })
    };
    for (action, place) in actions(reaction, field) {
        let Action::Switch { what, switch: Switch::Visible, to: Some(false) } = action else {
            continue;
        };
        let Some(all) = checker.meant(what) else { continue };
        let detects = |id: &EntityId| {
            [Detector::Zone, Detector::Touch, Detector::Prompt, Detector::Pointer]
                .into_iter()
                .any(|sort| scene.has(*id, sort))
        };
        let Some(id) = all.iter().find(|id| scene.is_solid(**id) || detects(id)) else { continue };
        if off(what) {
            continue;
        }
        let does = if scene.is_solid(*id) { "blocks" } else { "detects" };
        let message = format!("`{what}` is hidden, but still {does}");
        let help = format!("to take it away altogether: {{ disable = \"{what}\" }}");
        checker.hint(&place.key("hide"), Code::HidesOnly, message, help);
    }
}
