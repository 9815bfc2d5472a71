//! Reactions that act more often, for more, or earlier than meant.

use std::collections::BTreeMap;

use hazuro::scene::{Action, Change, Detector, EventKind, Field, Reaction, Trigger};
use hazuro::{EntityId, Scene};
use hazuro_format::Code;

use super::Checker;
use super::asked::words;

pub(super) fn check(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    let bodies = |player: bool| {
        scene.described().any(|id| scene.has_body(id) && scene.is_player(id) == player)
    };
    // Only where there are players and others can the wrong ones come by.
    let mixed = bodies(true) && bodies(false);
    for (index, reaction) in scene.reactions().iter().enumerate() {
        let field = Field::ROOT.key("reaction").item(index);
        again_and_again(checker, reaction, &field);
        if mixed {
            for_everyone(checker, reaction, &field);
        }
        too_early(checker, index, reaction, &field);
    }
    twice_the_same(checker);
}

/// Whether something keeps a reaction from acting each time.
fn is_limited(reaction: &Reaction) -> bool {
    reaction.most_times().is_some() || reaction.cooldown_seconds() > 0.0
}

/// The detectors of a trigger.
fn detectors(scene: &Scene, trigger: &Trigger) -> Vec<EntityId> {
    match trigger {
        Trigger::Detected { on, .. } => scene.select(on).unwrap_or_default(),
        _ => Vec::new(),
    }
}

/// Once for each part, or each tick.
fn again_and_again(checker: &mut Checker<'_>, reaction: &Reaction, field: &Field) {
    let scene = checker.scene;
    if is_limited(reaction) {
        return;
    }
    for trigger in reaction.triggers() {
        let Trigger::Detected { event, edge, .. } = trigger else { continue };
        let place = field.key("on").key(event.word());
        for id in detectors(scene, trigger) {
            let name = scene.name(id);
            let parts = scene.touch_of(id).is_some_and(|touch| touch.parts);
            let limited = scene
                .limits_of(id)
                .is_some_and(|limits| limits.limit.is_some() || limits.cooldown > 0.0);
            let tick = 1.5 / f64::from(scene.rate());
            if event.detector() == Some(Detector::Touch) && parts && !edge && !limited {
                let message = format!("`{name}` tells of each part: this acts once for each");
                let help = "take `parts` away, or say first = true, or give a cooldown";
                checker.warn(&place, Code::OncePerPart, message, help);
            } else if *event == EventKind::Inside
                && scene.inside_every(id).is_some_and(|every| every <= tick)
            {
                let message = format!("this acts at every tick for as long as one is in `{name}`");
                let help = "wait for `enter`, or raise `inside_every`";
                checker.warn(&place, Code::EachTick, message, help);
            }
        }
    }
}

/// Something that is one for all, set off by whoever comes.
fn for_everyone(checker: &mut Checker<'_>, reaction: &Reaction, field: &Field) {
    let scene = checker.scene;
    if reaction.condition().is_some() {
        return;
    }
    // What concerns only whoever came is meant for each.
    let counts = reaction.actions().any(|(.., action)| {
        matches!(action, Action::Count { of: None, .. } | Action::Grant { .. })
            || matches!(action, Action::Move(told) if told.what != "who")
            || matches!(action, Action::Cue { .. })
    });
    if !counts {
        return;
    }
    for trigger in reaction.triggers() {
        let Trigger::Detected { event, edge, who: None, .. } = trigger else { continue };
        if ![EventKind::Enter, EventKind::Touch].contains(event) || *edge {
            continue;
        }
        let everybody = |id: &EntityId| scene.admit_of(*id).is_none();
        if let Some(id) = detectors(scene, trigger).into_iter().find(everybody) {
            let name = scene.name(id);
            let other = scene.described().find(|id| scene.has_body(*id) && !scene.is_player(*id));
            let other = other.map_or("others", |id| scene.name(id));
            let message = format!("`{name}` admits everybody: `{other}` sets this off, too");
            let help = "say whom it is for: admit = { players = true }, or beside the event who = \"tag:...\"";
            checker.hint(&field.key("on").key(event.word()), Code::ForEveryone, message, help);
        }
    }
}

/// Whether two triggers may be one event.
fn meet(scene: &Scene, one: &Trigger, other: &Trigger) -> bool {
    match (one, other) {
        (Trigger::Start, Trigger::Start) => true,
        (Trigger::Cue(one), Trigger::Cue(other)) => one == other,
        (Trigger::Detected { event, .. }, Trigger::Detected { event: its, .. }) => {
            let alike =
                |one: &[EntityId], other: &[EntityId]| one.iter().any(|id| other.contains(id));
            let subjects = one.subjects().zip(other.subjects());
            let whom = |subjects| scene.select(subjects).unwrap_or_default();
            event == its
                && alike(&detectors(scene, one), &detectors(scene, other))
                && subjects.is_none_or(|(one, other)| alike(&whom(one), &whom(other)))
        }
        _ => false,
    }
}

/// Whether an action raises a count of the scene.
fn raises(action: &Action, count: &str) -> bool {
    match action {
        Action::Count { name, of: None, change: Change::Add(amount) } => {
            name == count && amount.fixed().is_none_or(|amount| amount > 0)
        }
        Action::Grant { grant, .. } => grant.counts.contains_key(count),
        _ => false,
    }
}

/// A condition on a count that the same event raises, but only afterwards.
fn too_early(checker: &mut Checker<'_>, index: usize, reaction: &Reaction, field: &Field) {
    let scene = checker.scene;
    let Some(condition) = reaction.condition() else { return };
    let compares = condition.text().contains(">=") || condition.text().contains("==");
    let counts = words(condition.text()).filter_map(|word| word.strip_prefix("count."));
    for count in counts.filter(|_| compares) {
        let does =
            |reaction: &Reaction| reaction.actions().any(|(.., action)| raises(action, count));
        let calls = |reaction: &Reaction| {
            reaction.actions().any(|(.., action)| matches!(action, Action::Call(_)))
        };
        let all = || scene.reactions().iter().enumerate();
        let grants = scene.described().filter_map(|id| scene.pickup_of(id));
        let granted = grants.into_iter().any(|pickup| pickup.grant.counts.contains_key(count));
        let elsewhere =
            granted || all().any(|(other, it)| other != index && (does(it) || calls(it)));
        let same = |other: &Reaction| {
            other
                .triggers()
                .iter()
                .any(|one| reaction.triggers().iter().any(|its| meet(scene, one, its)))
        };
        let place = (reaction.place(), index);
        let later = all().find(|(other, it)| {
            (it.place(), *other) > place && *other != index && does(it) && same(it)
        });
        let raised = all().any(|(other, it)| (it.place(), other) < place && does(it) && same(it));
        if let (Some((other, it)), false) = (later, raised || granted) {
            let message =
                format!("`{count}` is tested here before reaction {} raises it", other + 1);
            let help =
                "put that reaction first, give this one a higher `order`, or test for one less";
            checker.warn(&field.key("if"), Code::TestedTooEarly, message, help);
            let after = (it.place() + 1).into();
            checker.cure(|file| Some(vec![file.set(field, "order", &after)?]));
        } else if does(reaction) && !elsewhere && !holds_at_start(scene, count, condition.text()) {
            let message = format!("only this reaction raises `{count}`, and it tests it before");
            let help = "raise it in a reaction of its own, before this one";
            checker.warn(&field.key("if"), Code::TestedTooEarly, message, help);
        }
    }
}

/// Whether `count.name >= number`, or `==`, holds as the scene begins; anything else may hold.
fn holds_at_start(scene: &Scene, count: &str, text: &str) -> bool {
    let start = scene.counts().get(count).copied().unwrap_or_default();
    let text: String = text.split_whitespace().collect();
    let number = |operator: &str| -> Option<i64> {
        text.strip_prefix(&format!("count.{count}{operator}"))?.parse().ok()
    };
    match (number(">="), number("==")) {
        (Some(number), _) => start >= number,
        (_, Some(number)) => start == number,
        _ => true,
    }
}

/// Two reactions that wait for the same and do the same.
fn twice_the_same(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    let mut seen: BTreeMap<String, usize> = BTreeMap::new();
    for (index, reaction) in scene.reactions().iter().enumerate() {
        // Written alike; a name does not make them different.
        let triggers: Vec<String> = reaction.triggers().iter().map(ToString::to_string).collect();
        let condition = reaction.condition().map(|it| it.text().to_owned());
        let does = (reaction.sequences(), reaction.alternative(), reaction.delay());
        let like = format!("{triggers:?} {condition:?} {does:?}");
        match seen.get(&like) {
            Some(first) => {
                let message =
                    format!("this is reaction {} once more: all is done twice", first + 1);
                let field = Field::ROOT.key("reaction").item(index).key("on");
                checker.warn(&field, Code::TwiceTheSame, message, "take one of them away");
                let reaction = Field::ROOT.key("reaction").item(index);
                checker.cure(|file| Some(vec![file.remove(&reaction)?]));
            }
            None => drop(seen.insert(like, index)),
        }
    }
}
