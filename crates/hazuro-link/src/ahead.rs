//! What a client plays ahead of the host: what its own player has done since.

use std::collections::VecDeque;

use hazuro::glam::DVec3;
use hazuro::scene::Fault;
use hazuro::{EntityId, Play, State, Time};

use crate::message::Timed;

/// What is off by no more than this, in metres, is no correction.
const SAME: f64 = 1e-6;
/// How long the host may be behind at least, in seconds, so that deeds come in time.
const LEAST_LEAD: f64 = 0.02;
/// How long it may be behind at most before the client waits.
const MOST_LEAD: f64 = 0.1;
/// How many ticks pass between two changes of the pace.
const PATIENCE: u32 = 15;
/// How much of a correction is still shown a tick later.
const FADING: f64 = 0.8;
/// The most ticks that are played at once.
const MAX_LEAP: u64 = 120;
/// In how many states times entities what is foreseen is kept at most: some tens of megabytes.
const MOST_FORESEEN: usize = 100_000;

/// What the host has told put the own body elsewhere than the client had foreseen.
///
/// ```
/// use hazuro_link::Correction;
/// let far = |correction: &Correction| correction.metres > 0.5;
/// # let _ = far;
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Correction {
    /// At which tick of the client's own time.
    pub tick: u64,
    /// How far, in metres.
    pub metres: f64,
}

/// A play ahead of the host's.
#[derive(Debug)]
pub(crate) struct Ahead {
    pub play: Play,
    tick: u64,
    /// The last tick that the host has told of.
    told: u64,
    /// The states that are foreseen, up to the one it is at: what the host tells need not be gone on from again if
    /// it is as foreseen.
    foreseen: VecDeque<State>,
    /// How far from where it is the own body is still shown.
    slide: DVec3,
    patience: u32,
}

impl Ahead {
    /// At the state that the host was in at a tick.
    pub fn new(play: Play, tick: u64) -> Self {
        Self { play, tick, told: tick, foreseen: VecDeque::new(), slide: DVec3::ZERO, patience: 0 }
    }

    /// Is to begin as far ahead of a tick of the host as what is sent takes, and a little more: so that already the
    /// first deed comes in time. `waited` is how many ticks passed until the host's answer came.
    pub fn begin(&mut self, tick: u64, waited: u64) {
        let least = (LEAST_LEAD * f64::from(self.play.rate())).ceil() as u64;
        self.tick = tick + waited + least;
    }

    /// The client's own time.
    pub fn now(&self) -> Time {
        self.play.now()
    }

    /// How far from where it is the own body is still shown.
    pub fn slide(&self) -> DVec3 {
        self.slide
    }

    fn place(&self, player: EntityId) -> DVec3 {
        self.play.pose(player).map_or(DVec3::ZERO, |pose| pose.position)
    }

    /// The player does something now.
    pub fn act(&mut self, timed: &Timed, player: EntityId) -> Result<(), Fault> {
        let input = timed.deed.input(&self.play, player)?;
        self.play.schedule(timed.at.map_or(self.now(), Time::from_nanos), input)
    }

    /// Begins anew from what the host has said of a tick: does again what has not been done there, and
    /// catches up. If the own body is elsewhere then, that is a correction.
    pub fn correct(
        &mut self,
        (state, tick): (&State, u64),
        player: EntityId,
        pending: &VecDeque<Timed>,
    ) -> Option<Correction> {
        self.told = tick;
        if self.foresaw(state, tick) {
            return None;
        }
        let (foreseen, target) = (self.place(player), self.tick);
        // It is a state of this scene.
        self.play.restore(state.clone()).ok()?;
        for timed in pending {
            // It was taken when it was done.
            let _ = self.act(timed, player);
        }
        self.tick = tick;
        self.foreseen.clear();
        while self.tick < target.min(tick + MAX_LEAP) {
            self.step();
        }
        let off = foreseen - self.place(player);
        if target != self.tick || off.length() <= SAME {
            return None;
        }
        self.slide += off;
        Some(Correction { tick: target, metres: off.length() })
    }

    /// Whether what the host tells of a tick is as foreseen; what was foreseen of earlier ones is forgotten.
    fn foresaw(&mut self, state: &State, tick: u64) -> bool {
        let Some(since) = self.tick.checked_sub(tick) else { return false };
        // The last is of the tick that it is at.
        let place = (self.foreseen.len() as u64).checked_sub(since + 1);
        let Some(place) = place.and_then(|place| usize::try_from(place).ok()) else { return false };
        self.foreseen.drain(..place);
        self.foreseen.front() == Some(state)
    }

    /// Plays a tick.
    fn step(&mut self) {
        self.play.step();
        self.tick += 1;
        // Those of large scenes take much memory; without them all is gone on from again.
        if self.foreseen.len() > MOST_FORESEEN / self.play.scene().len().max(1) {
            self.foreseen.pop_front();
        }
        self.foreseen.push_back(self.play.state().clone());
    }

    /// Plays on by a tick of the client's clock: none if the host is too far behind, more if it is not
    /// far enough.
    pub fn go_on(&mut self, lead: &mut Option<f64>) {
        let rate = f64::from(self.play.rate());
        self.slide *= FADING;
        self.patience = self.patience.saturating_sub(1);
        let mut ticks = 1;
        if self.patience == 0
            && let Some(lead) = lead.take()
        {
            if lead < LEAST_LEAD {
                ticks += (((LEAST_LEAD - lead) * rate).ceil() as u64).min(MAX_LEAP);
                // What the host says of it comes only when it has heard of it.
                let under_way = (self.tick + ticks).saturating_sub(self.told).min(MAX_LEAP);
                self.patience = PATIENCE.max(under_way as u32);
            } else if lead > MOST_LEAD {
                ticks = 0;
                self.patience = PATIENCE / 3;
            }
        }
        for _ in 0..ticks {
            self.step();
        }
    }
}
