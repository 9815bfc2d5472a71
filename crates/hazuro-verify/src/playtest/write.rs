//! Writing a playtest of what was played.

use std::collections::BTreeMap;
use std::fmt::Write;

use hazuro::scene::{Action, Detector, EventKind, ResolvedAction, Switch};
use hazuro::{Button, EntityId, Entry, Event, Input, Play, Scene, Spot, Target, Time};

/// Writes what was done in a play, and proposes what is to be expected of it, as a playtest file:
/// each detector's events by their subjects, and the counts at the end.
///
/// What a tape cannot do, such as other limits given by a host, becomes a comment.
///
/// ```
/// use std::sync::Arc;
/// use hazuro::{Input, Time};
/// use hazuro_format::Source;
/// use hazuro_script::read_scene;
/// use hazuro_verify::{read_playtest, run_playtest, write_playtest};
/// let scene = Arc::new(read_scene(&Source::new("yard.toml", r#"
/// [[entity]]
/// name = "miller"
/// body = { capsule = { radius = 0.3, height = 1.8 }, walk = 3.0 }
///
/// [[entity]]
/// name = "pad"
/// at = [0, 1, -4]
/// zone = { box = [2, 2, 2] }
/// "#)).unwrap());
/// let miller = scene.find("miller").unwrap();
/// let mut play = hazuro::Play::new(scene.clone());
/// let walk = Input::Walk { who: miller, to: [0.0, 0.0, -4.0].into() };
/// play.schedule(Time::from_secs(0.5), walk.clone())?;
/// let entries = play.advance(Time::from_secs(3.0)).to_vec();
/// let text = write_playtest("yard.toml", &play, &[(Time::from_secs(0.5), walk)], &entries);
/// let playtest = read_playtest(&Source::new("found.playtest.toml", text), scene).unwrap();
/// let report = run_playtest(&playtest, None);
/// assert!(report.outcomes.len() == 1 && report.passed());
/// # Ok::<(), hazuro::scene::Fault>(())
/// ```
pub fn write_playtest(
    scene_file: &str,
    play: &Play,
    tape: &[(Time, Input)],
    entries: &[Entry],
) -> String {
    let scene = play.scene();
    let mut text =
        format!("scene = {}\nseconds = {}\n\ntape = [\n", quoted(scene_file), play.now().secs());
    for (time, input) in tape {
        if let Some(verb) = verb(scene, *time, input) {
            let _ = writeln!(text, "  {{ at = {}, {verb} }},", time.secs());
        } else {
            let words = crate::words::done(scene, input).replace('\n', " ");
            let _ = writeln!(text, "  # at {}: {words} (no tape can do that)", time.secs());
        }
    }
    text.push_str("]\n\n# What happened. Strike out what does not matter.\nexpect = [\n");
    for (expected, times) in happened(scene, entries) {
        let _ = writeln!(text, "  {{ {expected}, times = {times} }},");
    }
    for name in scene.counts().keys().filter(|name| is_word(name)) {
        let _ = writeln!(text, "  {{ value = \"count.{name}\", is = {} }},", play.count(name));
    }
    text.push_str("]\n");
    text
}

/// A text as TOML writes it.
fn quoted(text: &str) -> String {
    toml::Value::String(text.to_owned()).to_string()
}

fn is_word(name: &str) -> bool {
    let mut letters = name.chars();
    letters.next().is_some_and(|first| first.is_alphabetic() || first == '_')
        && letters.all(|letter| letter.is_alphanumeric() || letter == '_')
}

/// The events of detectors, but of those that only end something, each with how often it happened;
/// in the order in which they first did.
fn happened(scene: &Scene, entries: &[Entry]) -> Vec<(String, usize)> {
    let mut counted: BTreeMap<String, (usize, usize)> = BTreeMap::new();
    for event in entries.iter().filter_map(Entry::event) {
        let name = |id: EntityId| quoted(scene.name(id));
        let mut what = format!("event = \"{}\"", event.kind);
        match (&event.cue, event.on, event.kind.detector()) {
            (Some(cue), ..) => {
                let _ = write!(what, ", on = {}", quoted(cue));
            }
            (None, Some(on), Some(detector)) => {
                // Everybody stands on something all the time, and pointers wander.
                let idle = matches!(detector, Detector::Footing | Detector::Stats)
                    || matches!(event.kind, EventKind::Hover | EventKind::Inside);
                let closes = event.kind.is_closing() && !event.kind.is_opening();
                if idle || closes {
                    continue;
                }
                let _ = write!(what, ", on = {}", name(on));
                if let Some(who) = event.who {
                    let _ = write!(what, ", who = {}", name(who));
                }
            }
            _ => continue,
        }
        // Where no subject is named, events of any subject count.
        let alike = |other: &&Event| {
            (other.kind, other.on, &other.cue) == (event.kind, event.on, &event.cue)
                && (event.who.is_none() || event.cue.is_some() || other.who == event.who)
        };
        let next = counted.len();
        let times = || entries.iter().filter_map(Entry::event).filter(alike).count();
        counted.entry(what).or_insert_with(|| (next, times()));
    }
    let mut counted: Vec<_> = counted.into_iter().collect();
    counted.sort_by_key(|(_, (place, _))| *place);
    counted.into_iter().map(|(what, (_, times))| (what, times)).collect()
}

/// The verb of a tape for an input, with who does it.
fn verb(scene: &Scene, time: Time, input: &Input) -> Option<String> {
    let name = |id: &EntityId| quoted(scene.name(*id));
    let place = |target: &Target| match target {
        Target::Entity(id) => Some(quoted(scene.name(*id))),
        Target::Place(place) => Some(format!("[{}, {}, {}]", place.x, place.y, place.z)),
        // A tape cannot say how to be turned.
        Target::Pose(_) => None,
    };
    let by = |who: &EntityId, rest: String| Some(format!("who = {}, {rest}", name(who)));
    match input {
        Input::Walk { who, to } => by(who, format!("walk_to = {}", place(to)?)),
        Input::WalkStraight { who, to } => by(who, format!("walk_straight = {}", place(to)?)),
        Input::WalkAlong { who, through } => {
            let through: Option<Vec<String>> = through.iter().map(place).collect();
            by(who, format!("walk_along = [{}]", through?.join(", ")))
        }
        Input::Follow { who, whom, near } => {
            by(who, format!("follow = {}, near = {near}", name(whom)))
        }
        Input::Drive { who, to, until } => {
            let over = (*until - time).secs();
            by(who, format!("drive_to = {}, over = {over}", place(to)?))
        }
        Input::Place { who, at } => by(who, format!("place_at = {}", place(at)?)),
        Input::Face { who, to } => by(who, format!("face = {}", place(to)?)),
        Input::Press { who, key } => by(who, format!("press = {}", quoted(key))),
        Input::Release { who, key } => by(who, format!("release = {}", quoted(key))),
        Input::Interact { who, with } => by(who, format!("interact = {}", name(with))),
        Input::Grab { who, what } => by(who, format!("grab = {}", name(what))),
        Input::Point { who, at, button } => {
            let verb = match button {
                Button::Stays => "pointer",
                Button::Down => "pointer_down",
                Button::Up => "pointer_up",
                Button::Click => "click",
            };
            let at = match at {
                Spot::Pixel(x, y) => format!("[{x}, {y}]"),
                Spot::Entity(id) => name(id),
            };
            by(who, format!("{verb} = {at}"))
        }
        Input::Remove(who) => by(who, "leave = true".into()),
        Input::Add { what, at: None } => by(what, "join = true".into()),
        Input::Act(action) => deed(action, &name),
        _ => None,
    }
}

fn deed(action: &ResolvedAction, name: &dyn Fn(&EntityId) -> String) -> Option<String> {
    Some(match action {
        // A tape cannot say of which detector it is.
        Action::Cue { on: Some(_), .. } => return None,
        Action::Cue { name: cue, who, .. } => {
            let who = who.map_or(String::new(), |who| format!("who = {}, ", name(&who)));
            format!("{who}cue = {}", quoted(cue))
        }
        Action::Own { what, to } => format!("who = {}, own = {}", name(to), name(what)),
        Action::Disown(what) => format!("disown = {}", name(what)),
        Action::Jump(who) => format!("who = {}, jump = true", name(who)),
        Action::Halt(who) => format!("who = {}, halt = true", name(who)),
        Action::Drop(who) => format!("who = {}, drop = true", name(who)),
        Action::Grab { what, to } => {
            format!("who = {}, grab = {}, from_afar = true", name(to), name(what))
        }
        Action::Throw(throw) if throw.spin == 0.0 => {
            let [x, y, z] = throw.velocity;
            format!("who = {}, throw = [{x}, {y}, {z}]", name(&throw.what))
        }
        Action::Send { event, on, who: Some(who) } => {
            format!("who = {}, poke = {}, event = \"{event}\"", name(who), name(on))
        }
        Action::Switch { what, switch: Switch::Enabled, to: Some(on) } => {
            format!("{} = {}", if *on { "enable" } else { "disable" }, name(what))
        }
        _ => return None,
    })
}
