//! One end of a line, as the host keeps it.

use std::fmt;

use hazuro::EntityId;

use crate::message::Notation;
use crate::onlooker::Onlooker;
use crate::rules::Rules;

/// A line to a client, open or closed. No two lines of a room have the same.
///
/// ```
/// use hazuro::{Play, Scene};
/// use hazuro_link::{Room, Rules};
/// let mut room = Room::new(Play::new(Scene::builder("Yard").build()?), Rules::default());
/// assert_ne!(room.open(true), room.open(true));
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct LineId(pub(crate) u64);

impl fmt::Display for LineId {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "line {}", self.0)
    }
}

/// A line that is open.
#[derive(Debug)]
pub(crate) struct Line {
    /// Whether all that is sent arrives, in order.
    pub reliable: bool,
    /// How messages are written, as the first that came was.
    pub notation: Notation,
    /// What was told there, if a view is told instead of the state.
    pub onlooker: Option<Box<Onlooker>>,
    /// Who is played at the other end, once somebody has joined there.
    pub seat: Option<EntityId>,
    /// The last tick that is known there, or that has been sent on a line on which all arrives.
    pub told: u64,
    /// The whole state is wanted.
    pub whole: bool,
    /// The tick at which it was last heard.
    pub heard_at: u64,
    /// Faults of late, by the tick.
    faults: Vec<u64>,
    /// How many seconds the client's time was ahead of the host's when it last sent; the least since that
    /// was told.
    pub lead: Option<f64>,
    /// Deeds that were refused, with the tick from which that is told, and why.
    pub refused: Vec<(u64, u64, String)>,
    /// It takes no more for the time being.
    pub busy: bool,
}

/// In how many seconds faults are counted.
const FAULTY: f64 = 10.0;

impl Line {
    pub fn new(reliable: bool, tick: u64) -> Self {
        Self {
            reliable,
            notation: Notation::Cbor,
            onlooker: None,
            seat: None,
            told: 0,
            whole: false,
            heard_at: tick,
            faults: Vec::new(),
            lead: None,
            refused: Vec::new(),
            busy: false,
        }
    }

    /// Counts a fault. Whether there have been too many of late.
    pub fn fault(&mut self, tick: u64, rate: u32, rules: &Rules) -> bool {
        let of_late = (FAULTY * f64::from(rate)) as u64;
        self.faults.retain(|at| at + of_late > tick);
        self.faults.push(tick);
        self.faults.len() > rules.faults as usize
    }

    /// Keeps in mind how far ahead the client was.
    pub fn note_lead(&mut self, lead: f64) {
        self.lead = Some(self.lead.map_or(lead, |least| least.min(lead)));
    }

    /// The deeds that were refused and of which it is not known that this is known.
    pub fn refusals(&self) -> Vec<(u64, String)> {
        self.refused.iter().map(|(_, number, why)| (*number, why.clone())).collect()
    }

    /// The client knows all up to a tick.
    pub fn knows(&mut self, tick: u64) {
        self.told = self.told.max(tick);
        self.refused.retain(|(from, ..)| *from > tick);
    }
}
