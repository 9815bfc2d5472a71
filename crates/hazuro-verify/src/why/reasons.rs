//! Why an expectation was not met, a line for each thing that explains it, the most telling first.

use hazuro::scene::{Action, EventKind, nearest};
use hazuro::{EntityId, Entry, Event, Happening, Input, Time};

use super::aim::{Aim, Named, Sort};
use super::inquiry::Inquiry;

/// The most changes of a value that are listed.
const LISTED: usize = 4;

impl Inquiry<'_> {
    /// Why a value is not what it should be; `lacks` says by how much it is too small, if it is a
    /// number that is.
    pub(crate) fn value(
        &self,
        text: &str,
        who: Option<EntityId>,
        at: Time,
        lacks: Option<usize>,
    ) -> Vec<String> {
        let mut lines = Vec::new();
        for named in Named::all_in(text, who) {
            let aim = Aim::Value(named.clone());
            let changes = self.changes(&named, at);
            let fates = self.fates(&aim, at, lacks.unwrap_or(1));
            let history = self.history(&named, &changes, at);
            if changes.is_empty() {
                lines.extend(self.instead(&named, at));
            }
            // Of what is too small it tells most what kept it from growing.
            let more = lacks.is_some() || changes.is_empty();
            let mut fates = fates;
            if lacks.is_some() && fates.is_empty() {
                // What was to come before may have been refused.
                fates.extend(self.refused(at));
            }
            let (first, then) = if more { (fates, history) } else { (history, fates) };
            lines.extend(first);
            lines.extend(then);
            if lines.is_empty() {
                lines.push(format!("no action changes {}", named.words(self.scene())));
            }
        }
        lines
    }

    /// What changed a value until a time.
    fn changes(&self, named: &Named, at: Time) -> Vec<&Entry> {
        let aim = Aim::Value(named.clone());
        let entries = self.entries.iter().take_while(|entry| entry.time() <= at);
        let changes = |entry: &&Entry| match &entry.what {
            Happening::Did { .. } => named.sort != Sort::Stat && self.bears(&aim, entry),
            Happening::Event(event) => {
                let stat = event.reading.map(|it| self.scene().stat_name(it.stat));
                event.kind == EventKind::Stat
                    && named.sort == Sort::Stat
                    && event.on == named.of
                    && stat == Some(named.name.as_str())
            }
            _ => false,
        };
        entries.filter(changes).collect()
    }

    /// How a value became what it is.
    fn history(&self, named: &Named, changes: &[&Entry], at: Time) -> Vec<String> {
        let Some(last) = changes.last() else { return Vec::new() };
        let name = named.words(self.scene());
        let mut lines = Vec::new();
        let expired = self.entries.iter().rev().find(|entry| {
            entry.time() == last.time()
                && matches!(&entry.what, Happening::Expired { of, .. } if Some(*of) == named.of)
        });
        let over = expired.map_or(String::new(), |entry| format!("{}: ", self.because.told(entry)));
        let times = match changes.len() {
            1 => "once".to_owned(),
            times => format!("{times} times"),
        };
        let mut line =
            format!("{over}{name} was changed {times}, last {}", self.because.sentence(last));
        if let [.., before, _] = changes {
            line += &format!("; before, {}", self.because.sentence(before));
        }
        lines.push(line);
        for change in changes.iter().rev().skip(2).take(LISTED - 2) {
            lines.push(format!("and before, {}", self.because.sentence(change)));
        }
        let _ = at;
        lines
    }

    /// What was changed instead: a value of that name of somebody else, or one of nearly that name.
    fn instead(&self, named: &Named, at: Time) -> Vec<String> {
        let entries = self.entries.iter().take_while(|entry| entry.time() <= at);
        let mut others: Vec<(Named, &Entry)> = Vec::new();
        for entry in entries {
            let Happening::Did { action, .. } = &entry.what else { continue };

            let (sort, of, name) = match action {
                Action::Count { name, of, .. } => (Sort::Count, *of, name),
                Action::Flag { name, of, .. } => (Sort::Flag, *of, name),
                _ => continue,
            };
            others.push((Named { sort, of, name: name.clone() }, entry));
        }
        let same = |other: &&(Named, &Entry)| {
            other.0.sort == named.sort && other.0.name == named.name && other.0.of != named.of
        };
        let names = others.iter().filter(|it| it.0.sort == named.sort);
        let near = nearest(&named.name, names.map(|it| it.0.name.as_str()));
        let like = |other: &&(Named, &Entry)| {
            other.0.sort == named.sort && Some(&other.0.name) == near.as_ref()
        };
        let found = others.iter().rfind(same).or_else(|| others.iter().rfind(like));
        let line = |(other, entry): &(Named, &Entry)| {
            let (wanted, name) = (named.words(self.scene()), other.words(self.scene()));
            let sentence = self.because.sentence(entry);
            format!("nothing changed {wanted}; {name} was changed instead: {sentence}")
        };
        found.map(line).into_iter().collect()
    }

    /// Why something is not where it should be.
    pub(crate) fn place(&self, who: EntityId, at: Time, off: f64) -> Vec<String> {
        let name = self.name(who);
        let aim = Aim::Moves(who);
        let entries = || self.entries.iter().take_while(|entry| entry.time() <= at);
        let moved = entries()
            .filter(|entry| matches!(entry.what, Happening::Did { .. }) && self.bears(&aim, entry));
        let moved = moved.last();
        let tape = self.playtest.tape().iter().enumerate();
        let ordered = tape.filter(|(_, (time, input))| *time <= at && moves(input, who)).last();
        let mut lines = Vec::new();
        if let Some(entry) = moved.filter(|it| ordered.is_none_or(|(_, (t, _))| it.time() >= *t)) {
            lines.push(format!("{name} was moved last {}", self.because.sentence(entry)));
        } else if let Some((number, (time, input))) = ordered {
            let order = crate::words::done(self.scene(), input);
            let line = self.playtest.line_of(number).unwrap_or_default();
            let halted = entries().filter(|it| halted(it, who) && it.time() >= *time).last();
            if let Some(halted) = halted {
                lines.push(self.no_further(halted));
            } else if walks(input) {
                lines.push(format!(
                    "{name} is still on the way, or was not sent there: line {line} of the tape at \
                     {time:#} s: {order}; {off:.3} m are left"
                ));
            } else {
                lines
                    .push(format!("line {line} of the tape moved it last, at {time:#} s: {order}"));
            }
        } else {
            lines.extend(self.fates(&aim, at, 1));
            if lines.is_empty() {
                lines.push(format!("nothing moved {name}: the tape and the reactions leave it"));
            }
        }
        lines
    }

    /// That somebody on foot gets no further, and how the size of what is in the way compares with
    /// theirs.
    pub(super) fn no_further(&self, entry: &Entry) -> String {
        let Happening::Halted { time, who, by, .. } = &entry.what else { return String::new() };
        let name = self.name(*who);
        let Some(by) = by else {
            return format!("{name} gets no further at {time:#} s: there is no way");
        };
        let sizes = self.sizes(*who, *by, *time).unwrap_or_default();
        format!("{name} gets no further at {time:#} s: {} is in the way{sizes}", self.name(*by))
    }

    fn sizes(&self, who: EntityId, by: EntityId, time: Time) -> Option<String> {
        let scene = self.scene();
        let mut play = self.playtest.play();
        play.advance(time);
        let (here, there) = (play.pose(who).ok()?, play.pose(by).ok()?);
        let body = scene.body_bounds(who, &here)?;
        let solid = scene.solid_bounds(by, &there).or_else(|| scene.body_bounds(by, &there))?;
        let legs = scene.body_of(who)?.walking_legs();
        let (feet, tall) = (body.min.y, body.max.y - body.min.y);
        let (under, over) = (solid.min.y - feet, solid.max.y - feet);
        let round = crate::words::round;
        Some(if under > legs.step && under < tall {
            let (room, tall) = (round(under), round(tall));
            format!(": the head room below it is {room} of the {tall} m that are needed")
        } else if over > legs.step && over < 1.0 {
            let (step, most) = (round(over), legs.step);
            format!(": it is a step of {step} m, and {most} m is the most")
        } else {
            format!(": it reaches {} m above the feet", round(over))
        })
    }

    /// Why something is shown, or not: `off` is the first of it and its ancestors that is hidden.
    pub(crate) fn visible(
        &self,
        what: EntityId,
        off: Option<EntityId>,
        is_wanted: bool,
        at: Time,
    ) -> Vec<String> {
        if is_wanted {
            return off.map_or_else(Vec::new, |off| vec![self.off_since(off, at)]);
        }
        let of: Vec<EntityId> = self.scene().lineage(what).collect();
        let aim = Aim::Switches { of, to: false };
        let last = self.entries.iter().take_while(|entry| entry.time() <= at);
        let shown = last.filter(|entry| {
            let it = Aim::Switches { of: self.scene().lineage(what).collect(), to: true };
            matches!(entry.what, Happening::Did { .. }) && self.bears(&it, entry)
        });
        let mut lines: Vec<String> = shown
            .last()
            .map(|entry| format!("it was switched last {}", self.because.sentence(entry)))
            .into_iter()
            .collect();
        lines.extend(self.fates(&aim, at, 1));
        if lines.is_empty() {
            lines.push(format!("nothing hides {}", self.name(what)));
        }
        lines
    }

    /// What switched something off: the rest of a sentence that says it is off.
    pub(super) fn switched_off(&self, off: EntityId, at: Time) -> String {
        let line = self.off_since(off, at);
        let said = format!("`{}` is off or hidden, ", self.name(off));
        line.strip_prefix(&said).map_or(line.clone(), ToOwned::to_owned)
    }

    /// That something is off or hidden, since when, and by what.
    pub(crate) fn off_since(&self, off: EntityId, at: Time) -> String {
        let name = self.name(off);
        let aim = Aim::Switches { of: vec![off], to: false };
        let entries = self.entries.iter().take_while(|entry| entry.time() <= at);
        let last = entries
            .filter(|entry| matches!(entry.what, Happening::Did { .. }) && self.bears(&aim, entry));
        match last.last() {
            Some(entry) => {
                let taken = match entry.action() {
                    Some(Action::Collect { to, .. }) => {
                        format!("was collected by {}", self.name(*to))
                    }
                    _ => "is off or hidden".into(),
                };
                format!("`{name}` {taken}, {}", self.because.sentence(entry))
            }
            None => {
                let key = if self.scene().starts_enabled(off) { "visible" } else { "enabled" };
                let place = self.because.entity_place(off, key);
                let place = place.map_or(String::new(), |place| format!(" ({place})"));
                format!("`{name}` is off or hidden from the start{place}")
            }
        }
    }

    /// Why something is still offered that should not be.
    pub(crate) fn still_offered(&self, prompt: EntityId, who: EntityId, at: Time) -> Vec<String> {
        let events = self.entries.iter().take_while(|entry| entry.time() <= at);
        let offered = events.filter(|entry| {
            let is = |event: &Event| {
                event.kind == EventKind::Offer && event.on == Some(prompt) && event.who == Some(who)
            };
            entry.event().is_some_and(is)
        });
        let since = offered.last().map(|entry| {
            let since = self.because.since(entry.number);
            format!("it is offered since {:#} s, {since}", entry.time())
        });
        let of: Vec<EntityId> = self.scene().lineage(prompt).collect();
        let fates = self.fates(&Aim::Switches { of, to: false }, at, 1);
        // One line: since when, and what would have ended it.
        let all: Vec<String> = since.into_iter().chain(fates).collect();
        vec![all.join("; ")]
    }

    /// The whole chain that led to an event that should not have been, and what let it in.
    pub(crate) fn came_of(&self, event: &Event) -> Vec<String> {
        let is_it = |entry: &&Entry| entry.event().is_some_and(|it| std::ptr::eq(it, event));
        let Some(entry) = self.entries.iter().find(is_it) else { return Vec::new() };
        let mut line = format!("it came {}", self.because.since(entry.number));
        if let (Some(on), Some(who)) = (event.on, event.who)
            && event.kind.is_opening()
            && !matches!(event.cause, Some(hazuro::Cause::Hand))
        {
            line += &format!("; {}", self.let_in(on, who));
            line += &self.switched_on(on, entry);
        }
        vec![line]
    }

    /// That a detector was off at first, and what switched it on.
    fn switched_on(&self, on: EntityId, event: &Entry) -> String {
        let of: Vec<EntityId> = self.scene().lineage(on).collect();
        let aim = Aim::Switches { of, to: true };
        let before = self.entries.iter().take_while(|entry| entry.number < event.number);
        let last = before
            .filter(|entry| matches!(entry.what, Happening::Did { .. }) && self.bears(&aim, entry));
        last.last().map_or(String::new(), |entry| {
            format!("; it was switched on {}", self.because.sentence(entry))
        })
    }

    /// By which word of its rule a detector admits somebody.
    fn let_in(&self, on: EntityId, who: EntityId) -> String {
        let scene = self.scene();
        let (name, who_name) = (self.name(on), self.name(who));
        let place = self.because.entity_place(on, "admit");
        let place = place.map_or(String::new(), |place| format!(" ({place})"));
        let Some(rule) = scene.admit_of(on) else {
            return format!("`{name}` admits everybody: it has no `admit`{place}");
        };
        let [tags, kinds, names] = rule.admitted();
        let has: Vec<&str> = scene.tags_of(who).collect();
        let mut by = Vec::new();
        by.extend(
            tags.iter().find(|tag| has.contains(&tag.as_str())).map(|it| format!("the tag {it}")),
        );
        let kind = scene.kind_of(who).map(hazuro::scene::Kind::name);
        by.extend(
            kinds.iter().find(|it| Some(it.as_str()) == kind).map(|it| format!("the kind {it}")),
        );
        by.extend(names.iter().find(|it| *it == who_name).map(|it| format!("the name {it}")));
        if by.is_empty() {
            by.push("a rule that leaves tags, kinds and names open".into());
        }
        format!("{who_name} was let in by {}{place}", by.join(" and "))
    }
}

/// Whether an input moves somebody.
fn moves(input: &Input, who: EntityId) -> bool {
    matches!(
        input,
        Input::Walk { who: it, .. }
            | Input::WalkAlong { who: it, .. }
            | Input::Follow { who: it, .. }
            | Input::Drive { who: it, .. }
            | Input::Place { who: it, .. } if *it == who
    )
}

fn walks(input: &Input) -> bool {
    matches!(input, Input::Walk { .. } | Input::WalkAlong { .. } | Input::Follow { .. })
}

fn halted(entry: &Entry, who: EntityId) -> bool {
    matches!(&entry.what, Happening::Halted { who: it, .. } if *it == who)
}
