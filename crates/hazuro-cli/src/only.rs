//! What of a play is shown: events of some sorts, and what some entities have to do with.

use hazuro::scene::{EventKind, Fault, Named, nearest};
use hazuro::{EntityId, Entry, Happening, Scene};
use hazuro_format::Finding;

/// What to show; everything if nothing is chosen.
#[derive(Debug, Default)]
pub struct Only {
    events: Vec<EventKind>,
    about: Vec<EntityId>,
}

impl Only {
    /// Of events of these words, and of entities of these names.
    pub fn new(events: &[String], about: &[String], scene: &Scene) -> Result<Self, Finding> {
        let event = |word: &String| {
            EventKind::from_word(word).ok_or_else(|| {
                let nearest = nearest(word, EventKind::ALL.iter().map(|kind| kind.word()));
                let (what, name) = (Named::Event, word.clone());
                Finding::of_fault(&Fault::Unknown { what, name, nearest })
            })
        };
        let entity = |name: &String| {
            scene.entity_id(name.as_str()).map_err(|fault| Finding::of_fault(&fault))
        };
        Ok(Self {
            events: events.iter().map(event).collect::<Result<_, _>>()?,
            about: about.iter().map(entity).collect::<Result<_, _>>()?,
        })
    }

    /// Whether everything is shown.
    pub fn is_all(&self) -> bool {
        self.events.is_empty() && self.about.is_empty()
    }

    /// Whether an entry is shown. What goes wrong always is.
    pub fn shows(&self, entry: &Entry) -> bool {
        if self.is_all() || matches!(entry.what, Happening::Problem { .. }) {
            return true;
        }
        if let Some(event) = entry.event() {
            let wanted = self.events.is_empty() || self.events.contains(&event.kind);
            return wanted
                && (self.about.is_empty() || self.names(event.on) || self.names(event.who));
        }
        if !self.events.is_empty() {
            return false;
        }
        match &entry.what {
            Happening::Did { action, .. } | Happening::Refused { action, .. } => {
                let mut named = false;
                let _ = action.try_map(|entity, _, _| {
                    named |= self.names(Some(*entity));
                    Ok::<_, ()>(())
                });
                named
            }
            Happening::Halted { who: what, .. }
            | Happening::Expired { of: what, .. }
            | Happening::Added { what, .. }
            | Happening::Removed { what, .. }
            | Happening::TakenBack { what, .. } => self.names(Some(*what)),
            Happening::Run { who, .. } => self.names(*who),
            _ => false,
        }
    }

    fn names(&self, entity: Option<EntityId>) -> bool {
        entity.is_some_and(|entity| self.about.contains(&entity))
    }
}
