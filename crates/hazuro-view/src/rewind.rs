//! A play with everything that was done to it, which can go back to any earlier moment.

use hazuro::scene::Fault;
use hazuro::why::{Unwitnessed, Witness};
use hazuro::{Entry, Input, Play, State, Time};

/// How long it is from one kept state to the next at least.
const APART: Time = Time::from_nanos(500_000_000);
/// States older than this many times their distance are thinned out.
const THIN: i64 = 12;

/// A play that can go back in time.
///
/// It keeps states now and then, and what was done; to go back is to put back the state before and
/// to play on from there. Since the same input gives the same play, what comes of it is what was:
/// the same events at the same nanosecond, and the same state; only the last bits of where and how
/// fast moving things met may differ, since these are reckoned from where one looks from.
///
/// ```
/// use hazuro::{Input, Play, Scene, Time, geometry::Shape, scene::{Body, Entity}};
/// use hazuro_view::Rewind;
/// let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
/// let scene = Scene::builder("Yard").entity(Entity::new("miller").body(body)).build()?;
/// let miller = scene.find("miller").unwrap();
/// let mut rewind = Rewind::new(Play::new(scene));
/// rewind.input(Input::Walk { who: miller, to: [6.0, 0.0, 0.0].into() })?;
/// rewind.go(Time::from_secs(1.0));
/// let then = rewind.play().state().fingerprint();
/// rewind.go(Time::from_secs(5.0));
/// rewind.go(Time::from_secs(1.0));
/// assert_eq!(rewind.play().state().fingerprint(), then);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug)]
pub struct Rewind {
    play: Play,
    entries: Vec<Entry>,
    /// Everything done, in order of time; what is ahead is done again if nothing else is done before.
    inputs: Vec<(Time, Input)>,
    /// How many of them have been given to the play.
    given: usize,
    frames: Vec<Kept>,
    /// How far it has been played at most, with these inputs.
    end: Time,
}

#[derive(Debug)]
struct Kept {
    state: State,
    entries: usize,
    given: usize,
}

impl Rewind {
    /// From a play at its beginning.
    pub fn new(play: Play) -> Self {
        let first = Kept { state: play.state().clone(), entries: 0, given: 0 };
        let end = play.now();
        let (entries, inputs) = (Vec::new(), Vec::new());
        Self { play, entries, inputs, given: 0, frames: vec![first], end }
    }

    /// From a play at its beginning, to which these things are going to be done, in order of time.
    ///
    /// # Errors
    /// The first thing that the play would not take in.
    pub fn with_tape(play: Play, tape: Vec<(Time, Input)>) -> Result<Self, Fault> {
        tape.iter().try_for_each(|(_, input)| input.check(play.scene()))?;
        Ok(Self { inputs: tape, ..Self::new(play) })
    }

    /// The play, at the present moment.
    pub fn play(&self) -> &Play {
        &self.play
    }

    /// The present moment.
    pub fn now(&self) -> Time {
        self.play.now()
    }

    /// How far it has been played.
    pub fn end(&self) -> Time {
        self.end
    }

    /// Everything that has happened until now, in order.
    pub fn entries(&self) -> &[Entry] {
        &self.entries
    }

    /// Everything that has been done until now, in order of time.
    pub fn tape(&self) -> &[(Time, Input)] {
        &self.inputs[..self.given]
    }

    /// What is still going to be done, if nothing else is done before.
    pub fn ahead(&self) -> &[(Time, Input)] {
        &self.inputs[self.given..]
    }

    /// Does something now. After going back, what had been done from this moment on is forgotten;
    /// what was only planned for later stays.
    ///
    /// # Errors
    /// If the play would not take it in; nothing is forgotten then.
    pub fn input(&mut self, input: Input) -> Result<(), Fault> {
        input.check(self.play.scene())?;
        let (now, end) = (self.now(), self.end);
        if now < end {
            let ahead = self.inputs.split_off(self.given);
            self.inputs.extend(ahead.into_iter().filter(|(time, _)| *time >= end));
            self.end = now;
        }
        self.inputs.insert(self.given, (now, input));
        self.give();
        Ok(())
    }

    /// Plans something for later; the rest of what is ahead stays.
    ///
    /// # Errors
    /// If the play would not take it in.
    pub fn later(&mut self, time: Time, input: Input) -> Result<(), Fault> {
        input.check(self.play.scene())?;
        let time = time.max(self.now());
        let place = self.inputs.partition_point(|(other, _)| *other <= time).max(self.given);
        self.inputs.insert(place, (time, input));
        Ok(())
    }

    /// Gives the play what is due now.
    fn give(&mut self) {
        while let Some((time, input)) = self.inputs.get(self.given)
            && *time <= self.play.now()
        {
            let taken = self.play.schedule(*time, input.clone());
            debug_assert_eq!(taken, Ok(()), "each was checked when it came");
            self.given += 1;
        }
    }

    /// Goes to a time, back or on. What happens on the way is the same each time.
    pub fn go(&mut self, time: Time) {
        self.go_witnessed(time, &mut Unwitnessed);
    }

    /// As [`go`](Self::go), with somebody listening to the gates.
    pub fn go_witnessed<W: Witness>(&mut self, time: Time, witness: &mut W) {
        if time < self.now() {
            self.put_back(time);
        }
        self.give();
        while self.now() < time {
            let next = self.inputs.get(self.given).map_or(time, |(due, _)| *due);
            let until = time.min(next).min(self.now() + APART);
            let entries = self.play.advance_witnessed(until, witness);
            self.entries.extend_from_slice(entries);
            self.keep();
            self.give();
        }
        self.end = self.end.max(self.now());
    }

    /// Goes on through the next moment at which something happens, or to `until`.
    pub fn go_moment(&mut self, until: Time) {
        self.give();
        while self.now() < until {
            let next = self.inputs.get(self.given).map_or(until, |(due, _)| until.min(*due));
            let entries = self.play.advance_moment(next, &mut Unwitnessed);
            let any = entries.iter().any(|entry| entry.event().is_some());
            self.entries.extend_from_slice(entries);
            self.keep();
            self.give();
            if any {
                break;
            }
        }
        self.end = self.end.max(self.now());
    }

    /// Puts back the last kept state that is not after a time.
    fn put_back(&mut self, time: Time) {
        let until = self.frames.partition_point(|frame| frame.state.now() <= time).max(1);
        self.frames.truncate(until);
        let Some(frame) = self.frames.last() else { return };
        let restored = self.play.restore(frame.state.clone());
        debug_assert_eq!(restored, Ok(()), "it is a state of this very play");
        self.entries.truncate(frame.entries);
        self.given = frame.given;
    }

    /// Keeps the present state, if the last one is old enough, and thins out old ones.
    fn keep(&mut self) {
        let now = self.now();
        if self.frames.last().is_some_and(|last| now - last.state.now() < APART) {
            return;
        }
        let (entries, given) = (self.entries.len(), self.given);
        self.frames.push(Kept { state: self.play.state().clone(), entries, given });
        // The first is always kept.
        let mut index = self.frames.len().saturating_sub(2);
        while index > 0 {
            let age = now - self.frames[index].state.now();
            let gap = self.frames[index + 1].state.now() - self.frames[index - 1].state.now();
            if gap.nanos() * THIN < age.nanos() {
                self.frames.remove(index);
            }
            index -= 1;
        }
    }

    /// How many states are kept.
    pub fn kept(&self) -> usize {
        self.frames.len()
    }
}
