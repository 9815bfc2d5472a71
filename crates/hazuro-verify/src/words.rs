//! Inputs and actions in words.

use hazuro::scene::{
    Action, Aim, Change, Destination, Filling, Grant, Lead, Move, Pace, ReactionId, ResolvedAction,
    Teleport, Throw, Turn, Wait,
};
use hazuro::{Button, EntityId, Entry, Happening, Input, Life, Scene, Spot, Target};

/// A place in words.
pub(crate) fn place_words(scene: &Scene, target: &Target) -> String {
    match target {
        Target::Entity(entity) => scene.name(*entity).to_owned(),
        Target::Place(place) => format!("[{}, {}, {}]", place.x, place.y, place.z),
        Target::Pose(pose) => format!("{}", pose.position),
    }
}

/// What an action lets somebody take, and who, if it does.
pub(crate) fn taking(action: &ResolvedAction) -> Option<(EntityId, EntityId)> {
    match action {
        Action::Grab { what, to } | Action::Own { what, to } | Action::Collect { what, to } => {
            Some((*what, *to))
        }
        _ => None,
    }
}

/// An input in words.
pub fn done(scene: &Scene, input: &Input) -> String {
    let place = |target: &Target| place_words(scene, target);
    match input {
        Input::Walk { who, to } => format!("{} walks to {}", scene.name(*who), place(to)),
        Input::WalkStraight { who, to } => {
            format!("{} walks straight to {}", scene.name(*who), place(to))
        }
        Input::WalkAlong { who, through } => {
            let through: Vec<String> = through.iter().map(place).collect();
            format!("{} walks to {}", scene.name(*who), through.join(", then "))
        }
        Input::Follow { who, whom, near } => {
            format!("{} follows {}, {near} m near", scene.name(*who), scene.name(*whom))
        }
        Input::Act(Action::Halt(who)) => format!("{} stops", scene.name(*who)),
        Input::Act(Action::Jump(who)) => format!("{} jumps", scene.name(*who)),
        Input::Act(Action::Drop(who)) => format!("{} lets go", scene.name(*who)),
        Input::Grab { who, what } => {
            format!("{} grabs {}", scene.name(*who), scene.name(*what))
        }
        Input::Act(Action::Grab { what, to }) => {
            format!("{} grabs {} from afar", scene.name(*to), scene.name(*what))
        }
        Input::Act(Action::Throw(Throw { what, .. })) => format!("{} throws", scene.name(*what)),
        Input::Drive { who, to, until } => {
            format!("{} is driven to {}, to be there at {until} s", scene.name(*who), place(to))
        }
        Input::Place { who, at } => format!("{} is put at {}", scene.name(*who), place(at)),
        Input::Face { who, to } => format!("{} faces {}", scene.name(*who), place(to)),
        Input::Press { who, key } => format!("{} presses {key}", scene.name(*who)),
        Input::Release { who, key } => format!("{} lets go of {key}", scene.name(*who)),
        Input::Interact { who, with } => {
            format!("{} uses {}", scene.name(*who), scene.name(*with))
        }
        Input::Point { who, at, button } => {
            let does = match button {
                Button::Stays => "points at",
                Button::Down => "presses the button on",
                Button::Up => "lets go of the button on",
                Button::Click => "clicks",
            };
            let spot = match at {
                Spot::Pixel(x, y) => format!("[{x}, {y}]"),
                Spot::Entity(entity) => scene.name(*entity).to_owned(),
            };
            format!("{} {does} {spot}", scene.name(*who))
        }
        Input::Limit { what, .. } => format!("{} has other limits", scene.name(*what)),
        Input::Stop(reaction) => format!("{} is stopped", of_reaction(scene, *reaction)),
        Input::Renew(what) => format!("{} begins anew", scene.name(*what)),
        Input::Act(action) => describe(scene, action),
        Input::Remove(what) => format!("{} is removed", scene.name(*what)),
        Input::Add { what, .. } => format!("{} comes in", scene.name(*what)),
    }
}

/// How a switch is put, where its word does not say it.
fn switched(word: &str, to: Option<bool>) -> &'static str {
    match (word, to) {
        ("solid" | "detect", Some(true)) => " on",
        ("solid" | "detect", Some(false)) => " off",
        ("solid" | "detect" | "show", None) => " over",
        _ => "",
    }
}

/// An action in words.
pub fn describe(scene: &Scene, action: &ResolvedAction) -> String {
    let word = action.word();
    let name = |id: &EntityId| scene.name(*id);
    let whose = |of: &Option<EntityId>| of.map_or(String::new(), |of| format!("{}.", name(&of)));
    match action {
        Action::Move(Move { what, to, axis, over, .. }) => {
            let to = destination(scene, to);
            let along = axis.map_or(String::new(), |[x, y, z]| format!(" along [{x}, {y}, {z}]"));
            format!("{word} {} {to}{along}{}", name(what), over_seconds(*over))
        }
        Action::Turn(Turn { what, towards, by, pace, .. }) => {
            let to = match towards {
                Some(to) => format!("to {}", name(to)),
                None => format!("by {} degrees", round(by.to_degrees())),
            };
            format!("{word} {} {to}{}", name(what), turn_pace(*pace))
        }
        Action::Aim(Aim { what, at, rate, .. }) => {
            let rate = round(rate.to_degrees());
            format!("{word} {} to {} at {rate} degrees a second", name(what), name(at))
        }
        Action::Attach { what, to }
        | Action::Walk { what, to }
        | Action::Grab { what, to }
        | Action::Own { what, to }
        | Action::Collect { what, to } => {
            let to_whom = if ["collect", "grab", "own"].contains(&word) { "for" } else { "to" };
            format!("{word} {} {to_whom} {}", name(what), name(to))
        }
        Action::Switch { what, to, .. } => {
            format!("{word} {}{}", name(what), switched(word, *to))
        }
        Action::Tag { what, tag } | Action::Untag { what, tag } => {
            format!("{word} {} {tag}", name(what))
        }
        Action::Convert { what, to } => format!("{word} {} to {to}", name(what)),
        Action::Count { name, of, change: Change::Add(amount) } => {
            format!("{word} {}{name} {amount:+}", whose(of))
        }
        Action::Count { name, of, change: Change::Set(value) } => {
            format!("{word} {}{name} = {value}", whose(of))
        }
        Action::Flag { name, of, to } => {
            let to = to.map_or("over".into(), |up| format!("= {up}"));
            format!("{word} {}{name} {to}", whose(of))
        }
        Action::Fill { slot, of, with } => {
            format!("{word} {}{slot}{}", whose(&Some(*of)), filling(scene, with))
        }
        Action::Stat { name, of, change: Change::Add(amount) } => {
            format!("{word} {}{name} {:+}", whose(&Some(*of)), round(*amount))
        }
        Action::Stat { name, of, change: Change::Set(value) } => {
            format!("{word} {}{name} = {}", whose(&Some(*of)), round(*value))
        }
        Action::Effect { name: effect, of } | Action::EndEffect { name: effect, of } => {
            format!("{word} {effect} of {}", name(of))
        }
        Action::Grant { grant, to } => format!("{word} {} to {}", granted(grant), name(to)),
        Action::Send { event, on, who } => {
            let who = who.map_or(String::new(), |who| format!(" {}", name(&who)));
            format!("{word} {event} {}{who}", name(on))
        }
        Action::Spawn { kind, at } => format!("{word} {kind} at {}", name(at)),
        Action::Teleport(Teleport { what, to, .. }) => {
            let to: Vec<&str> = to.iter().map(name).collect();
            format!("{word} {} to {}", name(what), to.join(" or "))
        }
        Action::Lead(Lead { what, through, .. }) => {
            let through: Vec<&str> = through.iter().map(name).collect();
            format!("{word} {} through {}", name(what), through.join(", "))
        }
        Action::Throw(Throw { what, velocity: [x, y, z], .. }) => {
            format!("{word} {} at [{x}, {y}, {z}]", name(what))
        }
        Action::Remove(what)
        | Action::Reset(what)
        | Action::Revert(what)
        | Action::Detach(what)
        | Action::Halt(what)
        | Action::Jump(what)
        | Action::Disown(what)
        | Action::Drop(what)
        | Action::Route { what, .. } => format!("{word} {}", name(what)),
        Action::Say { key, to: Some(to) } => format!("{word} {key} to {}", name(to)),
        Action::Cue { name: cue, who: Some(who), .. } => format!("{word} {cue}: {}", name(who)),
        Action::Say { key, .. } | Action::Cue { name: key, .. } | Action::Call(key) => {
            format!("{word} {key}")
        }
        Action::Stop { name: reaction, of } => {
            let of = of.map_or(String::new(), |of| format!(" of {}", name(&of)));
            format!("{word} {reaction}{of}")
        }
        Action::Wait(Wait::Seconds(seconds)) => format!("{word} {seconds} s"),
        Action::Wait(Wait::Arrival(what)) => format!("{word} for {}", name(what)),
    }
}

/// Where something goes.
fn destination(scene: &Scene, to: &Destination<EntityId, f64>) -> String {
    match to {
        Destination::Home => "to home".into(),
        Destination::Point => "to the point".into(),
        Destination::By([x, y, z]) => format!("by [{x}, {y}, {z}]"),
        Destination::Entity(to) => format!("to {}", scene.name(*to)),
    }
}

/// How fast something turns.
fn turn_pace(pace: Pace) -> String {
    match pace {
        Pace::Over(seconds) => over_seconds(seconds),
        Pace::Rate(rate) => format!(" at {} degrees a second", round(rate.to_degrees())),
    }
}

/// What is put into a slot.
fn filling(scene: &Scene, with: &Filling<EntityId, f64>) -> String {
    match with {
        Filling::Entity(entity) => format!(" = {}", scene.name(*entity)),
        Filling::Number(number) => format!(" = {}", round(*number)),
        Filling::Text(text) => format!(" = \"{text}\""),
        Filling::Flag(up) => format!(" = {up}"),
        Filling::Nothing => String::new(),
    }
}

fn over_seconds(seconds: f64) -> String {
    if seconds > 0.0 { format!(" over {seconds} s") } else { String::new() }
}

/// What a grant holds, in words.
fn granted(grant: &Grant) -> String {
    let counts = grant.counts.iter().chain(&grant.own_counts);
    let counts = counts.map(|(name, amount)| format!("{name} {amount:+}"));
    let stats = grant.stats.iter().map(|(name, amount)| format!("{name} {:+}", round(*amount)));
    let words = grant.flags.iter().chain(&grant.effects).chain(&grant.tags);
    let words = words.chain(&grant.hands).cloned();
    counts.chain(stats).chain(words).collect::<Vec<_>>().join(", ")
}

/// What came of an event, in a line; none for events themselves, and for what goes without
/// saying: that a reaction begins, and that it is done.
pub fn came_of(scene: &Scene, entry: &Entry) -> Option<String> {
    Some(match &entry.what {
        Happening::Event(_) => return None,
        _ if entry.goes_without_saying() => return None,
        Happening::Did { action, .. } => format!("→ {}", describe(scene, action)),
        Happening::Said { text, to, .. } => {
            let to = to.map_or(String::new(), |to| format!(" to {}", scene.name(to)));
            format!("“{text}”{to}")
        }
        Happening::Printed { text, .. } => format!("# {text}"),
        Happening::Refused { action, why, .. } => {
            format!("✗ {}: {}", describe(scene, action), why.words(scene))
        }
        Happening::Problem { by, problem, .. } => {
            format!("! {}: {}", by.describe(scene), problem.describe(scene))
        }
        Happening::Halted { who, by, .. } => {
            format!("{} gets no further: {}", scene.name(*who), in_the_way(scene, *by))
        }
        Happening::Run { reaction, who, life, .. } => {
            let who = who.map_or(String::new(), |who| format!(" for {}", scene.name(who)));
            format!("■ {}{who} {}", of_reaction(scene, *reaction), life_words(scene, *life))
        }
        Happening::Expired { effect, of, why, .. } => {
            format!("■ {effect} of {} ends: {}", scene.name(*of), why.words())
        }
        Happening::Added { what, .. } => format!("+ {} comes in", scene.name(*what)),
        Happening::Removed { what, .. } => format!("− {} is taken out", scene.name(*what)),
        Happening::TakenBack { what, by, why, .. } => {
            format!("■ {} takes {} back: {}", scene.name(*by), scene.name(*what), why.words())
        }
    })
}

/// What becomes of a reaction, in words.
pub fn life_words(scene: &Scene, life: Life) -> String {
    match life {
        Life::Begins => "begins".into(),
        Life::Waits { until, arrival: None } => format!("waits until {until:#} s"),
        Life::Waits { until, arrival: Some(what) } => {
            format!("waits for {} to arrive, which is at {until:#} s", scene.name(what))
        }
        Life::Queued => "waits in line: it is still under way".into(),
        Life::Ignored => "is not begun anew: it is still under way".into(),
        Life::Replaced(by) => format!("is replaced by {}", of_reaction(scene, by)),
        Life::Done => "is done".into(),
        Life::Stopped(why) => format!("ends: {}", why.words()),
    }
}

/// What keeps somebody on foot from going on.
pub(crate) fn in_the_way(scene: &Scene, by: Option<EntityId>) -> String {
    by.map_or("there is no way".into(), |by| format!("{} is in the way", scene.name(by)))
}

/// A reaction by its name, or by its number.
pub fn of_reaction(scene: &Scene, reaction: ReactionId) -> String {
    match scene.reaction(reaction).name() {
        Some(name) => name.into(),
        None => format!("reaction {}", reaction.index() + 1),
    }
}

/// A number to six places.
pub fn round(number: f64) -> f64 {
    (number * 1e6).round() / 1e6 + 0.0
}
