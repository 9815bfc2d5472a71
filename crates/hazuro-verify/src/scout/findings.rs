//! What is suspicious about how visits ended.

use std::collections::BTreeSet;

use hazuro::scene::{Action, Detector, EventKind, ReactionId};
use hazuro::{By, Entry, Event, Happening, Problem, Scene};
use hazuro_format::Code;

use super::seen::{Scouting, Seen};
use super::subjects::Subject;
use super::visit::{Manner, Visit};
use crate::playtest::explain;
use crate::why::Question;

/// Something suspicious, with a playtest that shows it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Suspicion {
    /// A short name that stays the same from version to version.
    pub code: Code,
    /// What is suspicious.
    pub message: String,
    /// What to do about it.
    pub cure: String,
    /// A name for the file of the playtest, without its ending.
    pub name: String,
    /// The text of the playtest, with an expectation that is not met as long as it is so.
    pub playtest: String,
}

/// Somebody who notes what is suspicious.
pub(super) struct Notes<'a> {
    scene: &'a Scene,
    scouting: &'a Scouting,
    found: Vec<Suspicion>,
    /// What has been found: once is enough.
    known: BTreeSet<(Code, String)>,
    /// Detectors and whether any visit of anybody admitted set them off.
    silent: Vec<(Suspicion, bool)>,
    acted: BTreeSet<ReactionId>,
    /// Reactions that were stopped, by which visit, and what shows it.
    idle: Vec<(ReactionId, Visit, Suspicion)>,
}

impl<'a> Notes<'a> {
    pub fn new(scene: &'a Scene, scouting: &'a Scouting) -> Self {
        let (found, known, silent) = (Vec::new(), BTreeSet::new(), Vec::new());
        Self { scene, scouting, found, known, silent, acted: BTreeSet::new(), idle: Vec::new() }
    }

    /// All that is suspicious.
    pub fn settle(mut self) -> Vec<Suspicion> {
        let silent = std::mem::take(&mut self.silent);
        // If somebody sets it off, it is no riddle that others do not.
        let loud: BTreeSet<&str> =
            silent.iter().filter(|(_, fired)| *fired).map(|(it, _)| it.name.as_str()).collect();
        let mut told = BTreeSet::new();
        for (suspicion, _) in &silent {
            if !loud.contains(suspicion.name.as_str()) && told.insert(&suspicion.name) {
                self.found.push(suspicion.clone());
            }
        }
        for (reaction, _, suspicion) in std::mem::take(&mut self.idle) {
            if self.acted.insert(reaction) {
                self.found.push(suspicion);
            }
        }
        self.found
    }

    fn note(
        &mut self,
        code: Code,
        about: &str,
        visit: &Visit,
        (message, cure): (String, String),
        expect: &str,
    ) {
        if self.known.insert((code, about.into())) {
            let suspicion = self.suspicion(code, visit, (message, cure), expect);
            self.found.push(suspicion);
        }
    }

    fn suspicion(
        &self,
        code: Code,
        visit: &Visit,
        (message, cure): (String, String),
        expect: &str,
    ) -> Suspicion {
        let playtest = visit.playtest(&self.scouting.scene, expect);
        let name = format!("{}-{code}", self.scene.name(visit.on));
        let playtest = format!("# {message}.\n# {}: {cure}.\n\n{playtest}", visit.how);
        Suspicion { code, message, cure, name, playtest }
    }

    /// Notes how the visits of one subject to one detector ended.
    pub fn pair(&mut self, subject: &Subject, admitted: bool, tried: &[(&Visit, Seen)]) {
        let Some((first, first_seen)) = tried.first() else { return };
        let (on, who) = (self.scene.name(first.on), self.scene.name(subject.who));
        let event = first.event;
        let expectation = |often: &str| {
            format!("  {{ event = {:?}, on = {on:?}, who = {who:?}{often} }},\n", event.word())
        };
        for (visit, seen) in tried {
            self.problems(visit, seen);
            self.acts(visit, seen);
            self.idlers(visit, seen);
        }
        if !admitted {
            return;
        }
        let fired = |manner: Manner| {
            tried
                .iter()
                .filter(move |(visit, _)| visit.manner == manner)
                .map(|(visit, seen)| (*visit, seen, visit.fired(&seen.entries)))
                .collect::<Vec<_>>()
        };
        let sides = fired(Manner::Side);
        let any = tried.iter().any(|(visit, it)| visit.fired(&it.entries) > 0);
        if !any {
            let gate = why_not(first, first_seen);
            let message = format!("`{who}` never sets off `{on}` ({}): {gate}", first.detector);
            let cure = format!("see `hazuro why` of this playtest, `{event}`, `{on}` and `{who}`");
            let suspicion =
                self.suspicion(Code::NeverFires, first, (message, cure), &expectation(""));
            self.silent.push((suspicion, false));
            return;
        }
        let cure = String::new();
        let name = format!("{on}-never-fires");
        let (code, message) = (Code::NeverFires, String::new());
        self.silent.push((Suspicion { code, message, cure, name, playtest: String::new() }, true));
        let dumb: Vec<_> = sides.iter().filter(|(.., times)| *times == 0).collect();
        if let (Some((visit, seen, _)), true) = (dumb.first(), dumb.len() < sides.len()) {
            let gate = why_not(visit, seen);
            let message =
                format!("`{who}` sets off `{on}` in some ways, but not {}: {gate}", visit.how);
            let cure = "see whether that is meant".to_owned();
            self.note(Code::OneSided, on, visit, (message, cure), &expectation(""));
        }
        for (visit, seen, times) in &sides {
            let parts = self.scene.touch_of(visit.on).is_some_and(|touch| touch.parts);
            if *times > visit.times && !parts && !is_moved(visit, seen) {
                let message = format!("`{who}` sets off `{on}` {times} times {}", visit.how);
                let cure = "give it a cooldown, or a margin".to_owned();
                self.note(Code::Flickers, on, visit, (message, cure), &expectation(", times = 1"));
            }
            // A subject put elsewhere by what it set off is where it was put.
            if seen.left_inside && visit.detector == Detector::Zone && !is_moved(visit, seen) {
                let message = format!("`{who}` is still inside `{on}` after leaving it");
                let cure = "see what moves it along".to_owned();
                self.note(Code::StaysInside, on, visit, (message, cure), "");
            }
        }
        self.again(subject, &fired(Manner::Twice), &sides);
        let walks = fired(Manner::OnFoot);
        let by_other_ways = sides.iter().any(|(.., times)| *times > 0);
        if by_other_ways
            && self.scene.is_player(subject.who)
            && let Some((visit, seen, _)) = walks.first()
            && walks.iter().all(|(.., times)| *times == 0)
        {
            let gate = why_not(visit, seen);
            let message = format!("`{who}` does not get into `{on}` on foot: {gate}");
            let cure = "bring it down to where one walks, or clear the way".to_owned();
            self.note(Code::NotOnFoot, on, visit, (message, cure), &expectation(""));
        }
    }

    /// Whether it works a second time.
    fn again(
        &mut self,
        subject: &Subject,
        twice: &[(&Visit, &Seen, usize)],
        sides: &[(&Visit, &Seen, usize)],
    ) {
        let Some((visit, seen, times)) = twice.first() else { return };
        let (on, who) = (self.scene.name(visit.on), self.scene.name(subject.who));
        let limits = self.scene.limits_of(visit.on);
        let limited = limits.is_some_and(|it| it.limit.is_some() || it.cooldown > 0.0)
            || self.scene.pickup_of(visit.on).is_some();
        let both_ways = sides.iter().take(2).all(|(.., times)| *times > 0);
        if *times == 1 && both_ways && !limited && !is_moved(visit, seen) {
            let message = format!("`{who}` sets off `{on}` the first time only");
            let cure = "see what switches it off: a reaction of its own?".to_owned();
            let event = visit.event.word();
            let expect =
                format!("  {{ event = {event:?}, on = {on:?}, who = {who:?}, times = 2 }},\n");
            self.note(Code::OnlyOnce, on, visit, (message, cure), &expect);
        }
    }

    /// Notes how visits that were combined ended.
    pub fn combined(&mut self, visit: &Visit, seen: &Seen) {
        self.problems(visit, seen);
        self.acted(seen);
    }

    /// The reactions that were set off and have not acted, each with a visit that set it off.
    pub fn idle(&self) -> Vec<(ReactionId, Visit)> {
        let idle = self.idle.iter().filter(|(reaction, ..)| !self.acted.contains(reaction));
        idle.map(|(reaction, visit, _)| (*reaction, visit.clone())).collect()
    }

    /// Whether a reaction has acted.
    pub fn has_acted(&self, reaction: ReactionId) -> bool {
        self.acted.contains(&reaction)
    }

    /// Circles, scripts that fail, actions that cannot be done.
    fn problems(&mut self, visit: &Visit, seen: &Seen) {
        for entry in &seen.entries {
            match &entry.what {
                Happening::Problem { problem: problem @ Problem::Circle(_), .. } => {
                    let message = problem.describe(self.scene);
                    let cure = "let one of them wait, or give it an `if`".to_owned();
                    self.note(Code::Circle, &message.clone(), visit, (message, cure), "");
                }
                Happening::Problem { by, problem, event, .. } => {
                    let by = by.describe(self.scene);
                    // Named after what set it off, which may lie on the way.
                    let on = event.as_ref().and_then(|event| event.on).unwrap_or(visit.on);
                    let visit = &Visit { on, ..visit.clone() };
                    let message = format!("{by}: {}", problem.describe(self.scene));
                    let cure = "`hazuro run` of this playtest shows its place".to_owned();
                    self.note(Code::GoesWrong, &by, visit, (message, cure), "");
                }
                Happening::Refused { by, action, why, .. } if why.is_mistake() => {
                    let by = by.describe(self.scene);
                    let message =
                        format!("{by}: `{}` is not done: {}", action.word(), why.words(self.scene));
                    let cure = "`hazuro run` of this playtest shows its place".to_owned();
                    self.note(Code::GoesWrong, &by, visit, (message, cure), "");
                }
                _ => {}
            }
        }
    }

    /// Which reactions did something.
    fn acted(&mut self, seen: &Seen) {
        self.acted.extend(seen.entries.iter().filter_map(|entry| match &entry.what {
            Happening::Did { by: By::Reaction(reaction), .. }
            | Happening::Said { by: By::Reaction(reaction), .. } => Some(*reaction),
            _ => None,
        }));
    }

    /// Reactions that act several times in one visit.
    fn acts(&mut self, visit: &Visit, seen: &Seen) {
        self.acted(seen);
        let mut times = std::collections::BTreeMap::<ReactionId, usize>::new();
        for entry in &seen.entries {
            let Happening::Event(event) = &entry.what else { continue };
            // A stay or a drag is many events by its nature, and whoever waits for each means that.
            let many = matches!(event.kind, EventKind::Inside | EventKind::Drag);
            if many || event.on != Some(visit.on) || event.who != Some(visit.who) {
                continue;
            }
            for reaction in self.scene.reaction_ids() {
                let waits = self.scene.reaction(reaction).triggers().iter().any(|trigger| {
                    matches!(trigger, hazuro::scene::Trigger::Detected { event: kind, on, .. }
                        if *kind == event.kind
                            && kind.detector() == Some(visit.detector)
                            && crate::why::selects(self.scene, on, visit.on))
                });
                *times.entry(reaction).or_default() += usize::from(waits);
            }
        }
        if is_moved(visit, seen) {
            return;
        }
        let Some((reaction, times)) = times
            .into_iter()
            .find(|(reaction, times)| *times > visit.times && self.is_unlimited(*reaction))
        else {
            return;
        };
        let message = format!(
            "{} is set off {times} times in one visit, {}",
            By::Reaction(reaction).describe(self.scene),
            visit.how
        );
        let cure = "wait for the event that comes once, or give it a cooldown".to_owned();
        self.note(Code::ManyAVisit, self.scene.name(visit.on), visit, (message, cure), "");
    }

    fn is_unlimited(&self, reaction: ReactionId) -> bool {
        let spec = self.scene.reaction(reaction);
        spec.most_times().is_none() && spec.cooldown_seconds() == 0.0
    }

    /// Reactions that are set off and never act.
    fn idlers(&mut self, visit: &Visit, seen: &Seen) {
        let its = |event: &&Event| event.on == Some(visit.on) && event.who == Some(visit.who);
        for event in seen.entries.iter().filter_map(Entry::event).filter(its) {
            for reaction in self.scene.reaction_ids() {
                let spec = self.scene.reaction(reaction);
                let waits = spec.triggers().iter().any(|trigger| {
                    matches!(trigger, hazuro::scene::Trigger::Detected { event: kind, on, .. }
                        if *kind == event.kind && crate::why::selects(self.scene, on, visit.on))
                });
                let known = self.idle.iter().any(|(other, ..)| *other == reaction);
                let Some(condition) = spec.condition().filter(|_| waits && !known) else {
                    continue;
                };
                let by = By::Reaction(reaction).describe(self.scene);
                let message = format!(
                    "{by} never acts: `{}` holds in no visit, nor after other visits, nor with \
                     others inside",
                    condition.text()
                );
                let cure = "see whether something makes it hold; `hazuro why` has the values";
                let suspicion =
                    self.suspicion(Code::NeverActs, visit, (message, cure.to_owned()), "");
                self.idle.push((reaction, visit.clone(), suspicion));
            }
        }
    }
}

/// Whether the subject was put elsewhere, or led away, by what it set off.
fn is_moved(visit: &Visit, seen: &Seen) -> bool {
    seen.entries.iter().any(|entry| match &entry.what {
        Happening::Did { by: By::Reaction(_), action, .. } => {
            let moves = matches!(
                action,
                Action::Move(_)
                    | Action::Teleport(_)
                    | Action::Lead(_)
                    | Action::Walk { .. }
                    | Action::Attach { .. }
                    | Action::Remove(_)
            );
            moves && action.target().is_some_and(|(target, _)| *target == visit.who)
        }
        _ => false,
    })
}

/// The first gate that stopped a visit, in words.
fn why_not(visit: &Visit, seen: &Seen) -> String {
    let question = Question { who: Some(visit.who), ..Question::about(visit.event, visit.on) };
    let answer = explain(&seen.playtest, &question);
    let miss = answer.nearest().and_then(|candidate| candidate.miss.as_ref());
    match miss {
        Some(miss) => format!("stopped at \"{}\"", miss.line()),
        None => answer.notes.first().cloned().unwrap_or_else(|| "nothing was tried".into()),
    }
}
