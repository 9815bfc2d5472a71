//! Detectors that are asked again and again: when each is next.
//!
//! Each has its own fixed moments, which do not depend on the tick rate. Between them nobody asks
//! it, and where nothing stirs within its reach nobody asks it at all.

use std::collections::{BTreeMap, BTreeSet};

use crate::Time;
use crate::describe::{Detector, EntityId};
use crate::detect;
use crate::geometry::Aabb;
use crate::geometry::tree::{Bounds, Item, Tree};
use crate::model::{Scene, Thing};
use crate::motion::Path;
use crate::state::{Cause, State};

/// One of them.
#[derive(Clone, Debug)]
struct Poll {
    on: EntityId,
    detector: Detector,
    /// By which its moments are spread, from 1; 0 if those are the ticks.
    number: u32,
    rhythm: Interval,
    /// How far it may look from its entity's origin, in metres.
    reach: f64,
    due: Option<Time>,
    /// Why it is asked out of turn, if so.
    cause: Option<Cause>,
    /// Asked only for a witness to hear: nothing comes of it.
    only_heard: bool,
    /// Until when something is known to stir within its reach.
    busy_until: Time,
}

/// The moments at which one is asked.
#[derive(Clone, Copy, Debug)]
enum Interval {
    /// The start of each tick of the scene's own rate.
    Ticks(u32),
    Every {
        span: Time,
        /// When the first one is.
        first: Time,
    },
}

impl Interval {
    /// That of the ticks, or of a span: spread evenly, however many there are, by multiples of the golden
    /// section.
    fn new(scene: &Scene, every: Option<Time>, number: u32) -> Self {
        let Some(span) = every else { return Self::Ticks(scene.rate()) };
        let share = (f64::from(number) * 0.618_033_988_749_894_9).fract();
        Self::Every { span, first: Time::ZERO.towards(span, share) }
    }

    /// The first moment at `time` or, if `after`, later.
    fn next(self, time: Time, after: bool) -> Time {
        match self {
            Self::Ticks(rate) => {
                let tick = time.tick(rate);
                let here = Time::of_tick(tick, rate);
                let here_too = here == time && !after;
                if here_too { here } else { Time::of_tick(tick + 1, rate) }
            }
            Self::Every { span, first } => {
                let since = (time - first).nanos();
                if since < 0 {
                    return first;
                }
                let count = since / span.nanos();
                let exact = since % span.nanos() == 0 && !after;
                first + Time::from_nanos((count + i64::from(!exact)) * span.nanos())
            }
        }
    }
}

/// All of them.
#[derive(Debug, Default)]
pub(super) struct Rounds {
    all: Vec<Poll>,
    queue: BTreeSet<(Time, u32)>,
    reaches: Tree,
    /// Counts how often the reach of any has moved that may notice a body.
    moves: u64,
    /// How many have been given moments of their own.
    spread: u32,
    owned: BTreeMap<EntityId, Vec<u32>>,
    /// Kept for its memory.
    met: Vec<u32>,
}

impl Rounds {
    /// Those of a scene; each is asked as soon as its moment comes.
    pub fn of(scene: &Scene, state: &State) -> Self {
        let mut rounds = Self::default();
        rounds.grow(scene, state, 0, state.now);
        rounds
    }

    /// Those of the entities from number `first` on, too. Until `busy_until` something may stir within
    /// their reach that stirred before they were there.
    pub fn grow(&mut self, scene: &Scene, state: &State, first: usize, busy_until: Time) {
        for on in scene.ids().skip(first) {
            // By what they are themselves, so that conversions spread nothing anew.
            let described = asked(scene, scene.itself(on));
            let now = asked(scene, scene.thing(on));
            for ((detector, every, reach), (_, spread, _)) in now.into_iter().zip(described) {
                self.spread += u32::from(spread.is_some());
                let number = if spread.is_some() { self.spread } else { 0 };
                let rhythm = Interval::new(scene, every, number);
                let due = None;
                // What has never been asked finds what was there when the play began.
                let is_first = rhythm.next(Time::ZERO, false) >= state.now;
                let cause = (!state.started || is_first).then_some(Cause::Appear);
                let only_heard = false;
                let round = Poll {
                    on,
                    detector,
                    number,
                    rhythm,
                    reach,
                    due,
                    cause,
                    only_heard,
                    busy_until,
                };
                let index = self.all.len() as u32;
                self.owned.entry(on).or_default().push(index);
                self.all.push(round);
                self.arm_poll(index, state.now, state.now);
                self.place(index, (scene, state));
            }
        }
    }

    /// Puts the reach of one where its entity is.
    fn place(&mut self, index: u32, (scene, state): (&Scene, &State)) {
        let Poll { on, detector, .. } = self.all[index as usize];
        let here = Path::still(state.now, state.now, state.pose(scene, on, state.now));
        self.reaches.set(self.item(index, &here));
        self.moves += u64::from(detect::notices_bodies(detector));
    }

    /// Takes in an entity that has been converted: it has the same detectors.
    pub fn convert(&mut self, scene: &Scene, state: &State, on: EntityId) {
        let Some(owned) = self.owned.get(&on).cloned() else { return };
        for (index, (_, every, reach)) in owned.into_iter().zip(asked(scene, scene.thing(on))) {
            let poll = &mut self.all[index as usize];
            (poll.reach, poll.rhythm) = (reach, Interval::new(scene, every, poll.number));
            self.place(index, (scene, state));
        }
    }

    pub fn is_empty(&self) -> bool {
        self.all.is_empty()
    }

    fn item(&self, index: u32, path: &Path) -> Item {
        let reach = glam::DVec3::splat(self.all[index as usize].reach);
        let mut bounds = Aabb::EMPTY;
        for segment in path.segments() {
            for end in [segment.from.position, segment.to.position] {
                bounds = bounds.join(&Aabb::around(end, reach));
            }
        }
        Item { number: index, bounds: Bounds::from(&bounds), layers: u64::MAX }
    }

    /// Whether an entity is asked anything.
    pub fn has(&self, on: EntityId) -> bool {
        self.owned.contains_key(&on)
    }

    /// An entity moves along a path, until a time at most.
    pub fn bearer_moves(&mut self, on: EntityId, path: &Path, until: Time, now: Time) {
        for index in self.owned.get(&on).cloned().unwrap_or_default() {
            let item = self.item(index, path);
            self.reaches.set(item);
            self.moves += u64::from(detect::notices_bodies(self.all[index as usize].detector));
            self.arm_poll(index, until, now);
        }
    }

    /// How often the reach of any has moved that may notice a body.
    pub fn moves(&self) -> u64 {
        self.moves
    }

    /// Whether any of them may notice a body that has nothing but its shape, while it stays within some
    /// bounds and no reach moves.
    pub fn may_notice(&self, space: (&Scene, &State), who: EntityId, within: &Aabb) -> bool {
        let mut found = false;
        self.reaches.meeting(&Bounds::from(within), u64::MAX, |index| {
            let Poll { on, detector, .. } = self.all[index as usize];
            found |= detect::may_notice(space, (on, detector), who);
        });
        found
    }

    /// Something within `bounds` moves until a time at most, or has changed otherwise.
    pub fn stir(&mut self, bounds: &Aabb, until: Time, now: Time, cause: Cause) {
        let mut met = std::mem::take(&mut self.met);
        met.clear();
        self.reaches.meeting(&Bounds::from(bounds), u64::MAX, |index| met.push(index));
        for &index in &met {
            self.poll_now(index, now, cause);
            self.arm_poll(index, until, now);
        }
        self.met = met;
    }

    /// All that an entity asks is asked at once.
    pub fn hasten_all(&mut self, on: EntityId, now: Time, cause: Cause) {
        for index in self.owned.get(&on).cloned().unwrap_or_default() {
            self.poll_now(index, now, cause);
        }
    }

    /// Asks a detector of an entity at once, since what it looks for has just happened.
    pub fn ask_now(&mut self, on: EntityId, detector: Detector, now: Time) {
        for index in self.owned.get(&on).cloned().unwrap_or_default() {
            if self.all[index as usize].detector == detector {
                self.all[index as usize].only_heard = false;
                self.plan(index, Some(now));
            }
        }
    }

    /// Asks one at once, unless nothing but a movement is the reason.
    fn poll_now(&mut self, index: u32, now: Time, cause: Cause) {
        if !matches!(cause, Cause::Move | Cause::Appear) {
            let round = &mut self.all[index as usize];
            // Of several reasons at one moment, the first.
            if round.due != Some(now) || round.cause.is_none() {
                round.cause = Some(cause);
            }
            round.only_heard = false;
            self.plan(index, Some(now));
        }
    }

    fn arm_poll(&mut self, index: u32, until: Time, now: Time) {
        let round = &mut self.all[index as usize];
        round.busy_until = round.busy_until.max(until);
        round.only_heard = false;
        if round.due.is_none() {
            let next = round.rhythm.next(now, false);
            self.plan(index, Some(next));
        }
    }

    fn plan(&mut self, index: u32, due: Option<Time>) {
        let round = &mut self.all[index as usize];
        if let Some(before) = round.due {
            self.queue.remove(&(before, index));
        }
        round.due = due;
        if let Some(due) = due {
            self.queue.insert((due, index));
        }
    }

    /// When one is due next.
    pub fn next(&self) -> Option<Time> {
        self.queue.first().map(|(time, _)| *time)
    }

    /// Takes the next one: its number, entity and detector, and why it is asked; none if only for a
    /// witness to hear. It rests until [`goes_on`](Self::goes_on).
    pub fn take(&mut self) -> Option<(u32, EntityId, Detector, Option<Cause>)> {
        let (_, index) = *self.queue.first()?;
        self.plan(index, None);
        let round = &mut self.all[index as usize];
        let cause = round.cause.take().unwrap_or(Cause::Move);
        let cause = (!round.only_heard).then_some(cause);
        Some((index, round.on, round.detector, cause))
    }

    /// Plans the next moment of one that has been asked at `now`, if something still stirs or it
    /// is not done with what it saw; or else if somebody listens to it.
    pub fn goes_on(&mut self, index: u32, now: Time, unsettled: bool, heard: bool) {
        let round = &mut self.all[index as usize];
        let needed = unsettled || now < round.busy_until;
        if round.due.is_none() && (needed || heard) {
            round.only_heard = !needed;
            let next = round.rhythm.next(now, true);
            self.plan(index, Some(next));
        }
    }
}

/// What is asked of a thing again and again: by which detector, how often, and how far it looks.
fn asked(scene: &Scene, thing: &Thing) -> Vec<(Detector, Option<Time>, f64)> {
    let mut asked = Vec::new();
    if thing.player && thing.body.is_some() {
        if scene.widest_prompt() > 0.0 {
            asked.push((Detector::Prompt, None, scene.widest_prompt() + thing.body_reach()));
        }
        if scene.has_pointers() {
            // A ray across the scene; it is also asked whenever the camera moves.
            asked.push((Detector::Pointer, None, 1e7));
        }
    }
    asked.extend(detect::rounds(thing));
    asked
}
