//! Stats that look as if legs went by them.

use hazuro::scene::{Body, Field, GRAVITY, JUMP, STEP, Stat, Trigger, WALK};
use hazuro_format::{Code, Cure};

use super::Checker;

pub(super) fn check(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    let mut read = checker.asked_for("stat");
    for id in scene.described() {
        let needs = scene.prompt_of(id).map(|prompt| &prompt.needs);
        read.extend(needs.into_iter().flat_map(|needs| needs.stats.keys().cloned()));
    }
    for reaction in scene.reactions() {
        let triggers = reaction.triggers().iter().chain(reaction.enders());
        read.extend(triggers.filter_map(Trigger::stat_name).map(ToOwned::to_owned));
    }
    let walks = |body: Option<&Body>| body.is_some_and(|body| body.walking_speed().is_some());
    let mut stats: Vec<(Field, &[(String, Stat)])> = Vec::new();
    let walkers = || scene.described().filter(|id| scene.walking_speed(*id).is_some());
    for kind in scene.kinds() {
        let is_of = |id| scene.is_of_kind(id, kind.name());
        if !kind.own_stats().is_empty() && (walks(kind.own_body()) || walkers().any(is_of)) {
            stats.push((kind.field(), kind.own_stats()));
        }
    }
    stats.extend(walkers().map(|id| (scene.field(id), scene.entity(id).own_stats())));
    for (field, stats) in stats {
        for (name, _) in stats.iter().filter(|(name, _)| !read.contains(name)) {
            let Some(meant) = looks_like(name) else { continue };
            if checker.scripts.may(name) && !scene.scripts().is_empty() {
                continue;
            }
            let message = format!("nothing asks for the stat `{name}`, and legs do not know it");
            let help = Cure::meant(name, meant).and("Legs go by walk, jump, step and gravity.");
            checker.hint(&field.key("stats").key(name), Code::UnreadStat, message, help);
        }
    }
}

/// The stat that legs go by and that is meant by a name.
fn looks_like(name: &str) -> Option<&'static str> {
    let words = || name.split(['_', '-', ' ']);
    let has = |known: &[&str]| words().any(|word| known.contains(&word));
    if [WALK, JUMP, STEP, GRAVITY].contains(&name) {
        None
    } else if has(&["jump", "jumping", "leap"]) {
        Some(JUMP)
    } else if has(&["gravity", "fall", "falling"]) {
        Some(GRAVITY)
    } else if has(&["step", "climb"]) {
        Some(STEP)
    } else if has(&["speed", "walk", "walking", "pace"]) {
        Some(WALK)
    } else {
        None
    }
}
