//! Why something is not where it should be.

use hazuro::{EntityId, Entry, Happening, Input, Time};

use super::aim::Aim;
use super::inquiry::Inquiry;

impl Inquiry<'_> {
    /// Why something is not where it should be.
    pub(crate) fn place(&self, who: EntityId, at: Time, off: f64) -> Vec<String> {
        let name = self.name(who);
        let aim = Aim::Moves(who);
        let moved = self.last_done(&aim, at);
        let mut tape = self.tape.inputs.iter().enumerate();
        let ordered = tape.rfind(|(_, (time, input))| *time <= at && moves(input, who));
        let mut lines = Vec::new();
        if let Some(entry) = moved.filter(|it| ordered.is_none_or(|(_, (t, _))| it.time() >= *t)) {
            lines.push(format!("{name} was moved last {}", self.because.sentence(entry)));
        } else if let Some((number, (time, input))) = ordered {
            let order = crate::words::done(self.scene(), input);
            let line = self.tape.line_of(number).unwrap_or_default();
            let halted = |it: &&Entry| is_halted(it, who) && it.time() >= *time;
            let halted = self.until(at).iter().rfind(halted);
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
        let mut play = self.play();
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
}

/// Whether an input moves somebody.
fn moves(input: &Input, who: EntityId) -> bool {
    matches!(
        input,
        Input::Walk { who: it, .. }
            | Input::WalkStraight { who: it, .. }
            | Input::WalkAlong { who: it, .. }
            | Input::Follow { who: it, .. }
            | Input::Drive { who: it, .. }
            | Input::Place { who: it, .. } if *it == who
    )
}

fn walks(input: &Input) -> bool {
    matches!(
        input,
        Input::Walk { .. }
            | Input::WalkStraight { .. }
            | Input::WalkAlong { .. }
            | Input::Follow { .. }
    )
}

fn is_halted(entry: &Entry, who: EntityId) -> bool {
    matches!(&entry.what, Happening::Halted { who: it, .. } if *it == who)
}
