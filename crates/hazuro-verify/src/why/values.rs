//! Why a value is not what it should be.

use std::fmt::Write;

use hazuro::scene::{Action, EventKind, nearest};
use hazuro::{EntityId, Entry, Happening, Time};

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
            let history = self.history(&named, &changes);
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
        self.until(at).iter().filter(changes).collect()
    }

    /// How a value became what it is.
    fn history(&self, named: &Named, changes: &[&Entry]) -> Vec<String> {
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
            let _ = write!(line, "; before, {}", self.because.sentence(before));
        }
        lines.push(line);
        for change in changes.iter().rev().skip(2).take(LISTED - 2) {
            lines.push(format!("and before, {}", self.because.sentence(change)));
        }
        lines
    }

    /// What was changed instead: a value of that name of somebody else, or one of nearly that name.
    fn instead(&self, named: &Named, at: Time) -> Vec<String> {
        let mut others: Vec<(Named, &Entry)> = Vec::new();
        for entry in self.until(at) {
            let Happening::Did { action, .. } = &entry.what else { continue };
            let (sort, of, name) = match action {
                Action::Count { name, of, .. } => (Sort::Count, *of, name),
                Action::Flag { name, of, .. } => (Sort::Flag, *of, name),
                Action::Fill { slot, of, .. } => (Sort::Slot, Some(*of), slot),
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
}
