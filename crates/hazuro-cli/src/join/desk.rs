//! The two sorts of desks: one mirrors the play, the other is told what its player may know.

use hazuro::glam::DVec3;
use hazuro::scene::EventKind;
use hazuro::{Entry, Event, Happening, Origin};
use hazuro_link::{Client, Guest, Seen, Viewer};

use crate::output::{Table, complain, say};

/// Ticks a second of who does not know the host's.
const RATE: f64 = 60.0;
/// By how much one's own body must be put elsewhere for it to be told, in metres.
const TOLD: f64 = 0.05;

/// Where somebody plays from.
pub trait Desk: Guest {
    /// Ticks a second.
    fn rate(&self) -> f64;

    /// What is printed first once it has joined, and the table for all that happens.
    fn greeting(&self) -> (String, Table);

    /// Prints what the host has told.
    fn tell(&mut self, table: &Table);

    /// Where something is, in metres.
    ///
    /// # Errors
    /// If there is no such thing, in words.
    fn place(&self, name: &str) -> Result<DVec3, String>;

    /// Whose something is.
    ///
    /// # Errors
    /// If there is no such thing, in words.
    fn owner(&self, name: &str) -> Result<Option<String>, String>;
}

impl Desk for Client {
    fn rate(&self) -> f64 {
        f64::from(self.play().rate())
    }

    fn greeting(&self) -> (String, Table) {
        let scene = self.play().scene();
        let name = self.player().map_or("", |player| scene.name(player));
        (format!("{}: you are {name}", scene.title()), Table::new(scene))
    }

    fn tell(&mut self, table: &Table) {
        let entry = |event: Event| Entry {
            number: 0,
            origin: Origin::Start,
            step: None,
            what: Happening::Event(event),
        };
        let entries: Vec<Entry> = self.events().map(entry).collect();
        for line in table.lines(self.play().scene(), &[], &entries) {
            say!("{line}");
        }
        for correction in self.corrections().filter(|it| it.metres > TOLD) {
            complain!("you are {:.2} m from where you thought", correction.metres);
        }
    }

    fn place(&self, name: &str) -> Result<DVec3, String> {
        self.pose(name).map(|pose| pose.position).map_err(|fault| fault.to_string())
    }

    fn owner(&self, name: &str) -> Result<Option<String>, String> {
        let owner = self.play().owner(name).map_err(|fault| fault.to_string())?;
        Ok(owner.map(|owner| self.play().scene().name(owner).to_owned()))
    }
}

impl Desk for Viewer {
    fn rate(&self) -> f64 {
        RATE
    }

    fn greeting(&self) -> (String, Table) {
        (format!("You are {}", self.player().unwrap_or_default()), Table::default())
    }

    fn tell(&mut self, table: &Table) {
        for event in self.events() {
            let named = |name: &Option<String>| name.clone().unwrap_or_default();
            let [on, who, cause] = [&event.on, &event.who, &event.cause].map(named);
            let kind = EventKind::ALL.iter().find(|kind| kind.word() == event.kind);
            // A host of a later version may tell of what is not known here.
            let kind = kind.copied().unwrap_or(EventKind::Cue);
            say!("{}", table.row(&format!("{:.6}", event.time), kind, [&on, &who, &cause]));
        }
        for kept in self.kept() {
            complain!("{} is not taken: {}", kept.what, kept.why);
        }
    }

    fn place(&self, name: &str) -> Result<DVec3, String> {
        let seen = self.thing(name).filter(|seen| seen.is_there());
        seen.map(Seen::position).ok_or_else(|| unknown(name))
    }

    fn owner(&self, name: &str) -> Result<Option<String>, String> {
        let seen = self.thing(name).ok_or_else(|| unknown(name))?;
        Ok(seen.owner().map(str::to_owned))
    }
}

fn unknown(name: &str) -> String {
    format!("nothing was told of `{name}`")
}
