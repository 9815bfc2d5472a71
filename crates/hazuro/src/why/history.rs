//! How the entries of a play hang together: what each came of, and what came of it.

use crate::record::Entry;
use crate::state::Origin;

/// The entries of a play, to be followed backwards and forwards.
///
/// ```
/// use hazuro::{Origin, Play, Scene, scene::{Action, Reaction, Trigger}, why::History};
/// let scene = Scene::builder("Yard")
///     .reaction(Reaction::on(Trigger::Start).then(Action::cue("ring")))
///     .reaction(Reaction::on(Trigger::cue("ring")).then(Action::add("rings", 1)))
///     .build()?;
/// let mut play = Play::new(scene);
/// let entries = play.step().to_vec();
/// let history = History::new(&entries);
/// let last = entries.last().unwrap();
/// // It rose by the event of the cue, which was sent at the start of the play.
/// assert_eq!(history.back(last.number).count(), 4);
/// assert_eq!(history.root(last.number), Origin::Start);
/// assert_eq!(history.all_of(entries[0].number).len(), 3);
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug)]
pub struct History<'a> {
    entries: &'a [Entry],
    /// Of each entry, in order: where those stand that came of it.
    came_of: Vec<Vec<u32>>,
}

impl<'a> History<'a> {
    /// The history of the entries of one play, in their order; those of an earlier stretch may be
    /// missing.
    pub fn new(entries: &'a [Entry]) -> Self {
        let mut history = Self { entries, came_of: vec![Vec::new(); entries.len()] };
        for (place, entry) in entries.iter().enumerate() {
            if let Origin::Entry(number) = entry.origin
                && let Some(cause) = history.place(number)
            {
                history.came_of[cause].push(place as u32);
            }
        }
        history
    }

    /// All entries, in order.
    pub fn entries(&self) -> &'a [Entry] {
        self.entries
    }

    fn place(&self, number: u64) -> Option<usize> {
        self.entries.binary_search_by_key(&number, |entry| entry.number).ok()
    }

    /// The entry of this number.
    pub fn entry(&self, number: u64) -> Option<&'a Entry> {
        self.place(number).map(|place| &self.entries[place])
    }

    /// The entry of this number, what it came of, what that came of, and so on.
    pub fn back(&self, number: u64) -> impl Iterator<Item = &'a Entry> + '_ {
        std::iter::successors(self.entry(number), |entry| match entry.origin {
            Origin::Entry(cause) => self.entry(cause),
            Origin::Start | Origin::Input(_) => None,
        })
    }

    /// What an entry came of in the end: the start, an input, or an entry that is not known.
    pub fn root(&self, number: u64) -> Origin {
        self.back(number).last().map_or(Origin::Entry(number), |first| first.origin)
    }

    /// What came of an entry at first hand, in order.
    pub fn of(&self, number: u64) -> impl Iterator<Item = &'a Entry> + '_ {
        let places = self.place(number).map(|place| &self.came_of[place]);
        places.into_iter().flatten().map(|place| &self.entries[*place as usize])
    }

    /// All that came of an entry, in the order in which it happened, each with how many others
    /// stand between.
    pub fn all_of(&self, number: u64) -> Vec<(usize, &'a Entry)> {
        let mut all = Vec::new();
        let mut next = vec![(0, number)];
        while let Some((depth, number)) = next.pop() {
            for entry in self.of(number) {
                all.push((depth, entry));
                next.push((depth + 1, entry.number));
            }
        }
        all.sort_unstable_by_key(|(_, entry)| entry.number);
        all
    }
}
