//! Detectors that are likely to detect otherwise than meant.

use hazuro::EntityId;
use hazuro::scene::{Admit, Detector, Field, Scene};

use hazuro_format::{Code, Cure};

use super::Checker;

/// The longest cooldown, in seconds, that anybody is likely to mean: an hour.
const LONGEST: f64 = 3600.0;

pub(super) fn check(checker: &mut Checker<'_>) {
    for id in checker.scene.described() {
        details(checker, id);
        limits(checker, id);
        needs(checker, id);
    }
    rivals(checker);
    heights(checker);
}

/// What is likely to act otherwise than meant.
fn details(checker: &mut Checker<'_>, id: EntityId) {
    let scene = checker.scene;
    let name = scene.name(id);
    if scene.footing_of(id).is_some_and(|footing| footing.margin == 0.0) {
        let field = checker.place(id, "footing").key("margin");
        let message = format!("without a margin `{name}` flickers on uneven ground");
        let help = "give it some centimetres: margin = 0.1";
        checker.warn(&field, Code::NoMargin, message, help);
        let table = checker.place(id, "footing");
        checker.cure(|file| Some(vec![file.set(&table, "margin", &0.1.into())?]));
    }
    if scene.probe_of(id).is_some_and(|probe| probe.own) && scene.bearer(id).is_some() {
        let field = checker.place(id, "probe").key("own");
        let message = format!("the ray of `{name}` may hit the very body it belongs to first");
        checker.warn(&field, Code::HitsItself, message, "take `own` away");
        checker.cure(|file| Some(vec![file.remove(&field)?]));
    }
    if scene.has(id, Detector::Pointer)
        && let Some(player) = scene.ids().find(|id| scene.is_player(*id))
        && scene.camera_of(player).is_none()
    {
        let field = checker.place(id, "pointer");
        let player = scene.name(player);
        let message = format!("nobody can point at `{name}`: `{player}` has no camera");
        let help = "add an entity with camera = {}, as a child of the player or on its own";
        checker.warn(&field, Code::NoCamera, message, help);
    }
}

/// Cooldowns that are never over.
fn limits(checker: &mut Checker<'_>, id: EntityId) {
    let scene = checker.scene;
    let Some(limits) = scene.limits_of(id) else { return };
    let name = scene.name(id);
    if limits.cooldown > LONGEST {
        let hours = limits.cooldown / 3600.0;
        let message = format!("the cooldown of `{name}` is over only after {hours:.0} hours");
        let help = "it is in seconds; for once and never again say once = true";
        let field = checker.place(id, "cooldown");
        checker.warn(&field, Code::NeverOver, message, help);
    }
}

/// Whether a cooldown is longer than anybody is likely to mean.
pub(super) fn is_endless(seconds: f64) -> bool {
    seconds > LONGEST
}

/// Counts that a prompt needs and nothing counts.
fn needs(checker: &mut Checker<'_>, id: EntityId) {
    let scene = checker.scene;
    let Some(prompt) = scene.prompt_of(id) else { return };
    let name = scene.name(id);
    let known: Vec<&str> = scene.count_names().collect();
    for count in prompt.needs.counts.keys().filter(|count| !known.contains(&count.as_str())) {
        let key = if prompt.quiet { "interact" } else { "prompt" };
        let field = checker.place(id, key);
        let field = field.key("needs").key("counts").key(count);
        let message = format!("`{name}` needs `{count}`, which nothing counts");
        let help = Cure::nearest(count, known.iter().copied(), || {
            format!("let an action count it, or start it: counts = {{ {count} = 0 }}")
        });
        let nearest = help.instead().map(|(_, nearest)| nearest.to_owned());
        checker.warn(&field, Code::NeverMet, message, help);
        if let Some(nearest) = nearest {
            checker.cure(|file| Some(vec![file.rename(&field, &nearest)?]));
        }
    }
}

/// Prompts in one place for one key, of which only the first is ever offered.
fn rivals(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    let prompts: Vec<_> = scene
        .described()
        .filter_map(|id| Some((id, scene.prompt_of(id)?, scene.pose(id).position)))
        .filter(|(_, prompt, _)| !prompt.several && !prompt.quiet)
        .collect();
    // Only those in one place can compete always.
    let mut by_place: Vec<usize> = (0..prompts.len()).collect();
    by_place.sort_by(|one, other| prompts[*one].2.x.total_cmp(&prompts[*other].2.x));
    for (rank, index) in by_place.iter().enumerate() {
        let (id, prompt, place) = prompts[*index];
        let near =
            by_place[rank + 1..].iter().take_while(|other| prompts[**other].2.x - place.x < 0.01);
        for other in near {
            let (rival, told, at) = prompts[*other];
            let same = told.key == prompt.key
                && told.priority == prompt.priority
                && at.distance(place) < 0.01
                && same_rule(scene, id, rival);
            if !same {
                continue;
            }
            let (late, early) = (id.max(rival), id.min(rival));
            let field = checker.place(late, "prompt");
            let (name, other) = (scene.name(late), scene.name(early));
            let message =
                format!("`{name}` always competes with `{other}`, which is offered instead");
            let help = "give it another key or a higher `priority`, or several = true";
            checker.warn(&field, Code::AlwaysCompetes, message, help);
        }
    }
}

fn same_rule(scene: &Scene, one: EntityId, other: EntityId) -> bool {
    scene.admit_of(one).map(Admit::admitted) == scene.admit_of(other).map(Admit::admitted)
}

/// Conditions about the height of the centre of a body that knows how high its feet are.
fn heights(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    let has_feet =
        |id: &EntityId| scene.footing_of(*id).is_some() && scene.walking_speed(*id).is_none();
    if !scene.described().any(|id| has_feet(&id)) {
        return;
    }
    for (index, reaction) in scene.reactions().iter().enumerate() {
        let Some(condition) = reaction.condition() else { continue };
        let asks = |word: &str| super::asked::words(condition.text()).any(|it| it == word);
        let feet: Option<EntityId> = if asks("on.y") {
            let on = reaction.triggers().iter().find_map(|trigger| match trigger {
                hazuro::scene::Trigger::Detected { on, .. } => scene.select(on).ok(),
                _ => None,
            });
            on.into_iter().flatten().find(has_feet)
        } else if asks("who.y") {
            scene.described().find(has_feet)
        } else {
            None
        };
        if let Some(body) = feet {
            let name = scene.name(body);
            let message = format!("this is the height of the centre of `{name}`, not of its feet");
            let help = "how high its feet are above the ground is `height`";
            let field = Field::ROOT.key("reaction").item(index).key("if");
            checker.hint(&field, Code::HeightOfCentre, message, help);
        }
    }
}
