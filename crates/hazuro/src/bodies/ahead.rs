//! Looking ahead: when a body has something to decide.

use smallvec::SmallVec;

use crate::Time;
use crate::describe::EntityId;
use crate::geometry::{Convex, Glide, Pose, gap, sweep};
use crate::model::Mover;
use crate::motion::{Path, Segment};
use crate::space::Space;
use crate::state::Mode;

use super::contact::{Around, CONTACT, DEEP, Obstacle, SUPPORT};
use super::load::mover_of;

/// How fast two must at least come together to bump into one another, in metres per second.
pub(super) const APPROACH: f64 = 2e-5;

/// Spans of time, from and until.
type Spans = SmallVec<[(Time, Time); 4]>;

/// What is to be done about a body next.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Ahead {
    pub time: Time,
    /// Whether it has something to decide then; otherwise one can see no further.
    pub decides: bool,
}

/// When a body has something to decide, or must be looked at again; none if nothing happens to it
/// before something around it changes.
pub(crate) fn ahead(space: Space<'_>, who: EntityId) -> Option<Ahead> {
    let mover = mover_of(space, who)?;
    let around = Around { space, who, mover: &mover, holder: None };
    let (scene, state, now) = (space.scene, space.state, space.state.now);
    let live = state.live(who);
    let stance = live.stance.as_deref()?;
    // Who is the child of another goes where that goes.
    if state.switched_off_by(scene, who).is_some() || state.parent(scene, who).is_some() {
        return None;
    }
    let decide = |time: Time| Some(Ahead { time: time.max(now), decides: true });
    let end = space.state.cast.end(who);
    match stance.mode {
        Mode::Led => return decide(end.unwrap_or(now)),
        Mode::Carried => return None,
        // Whoever is held still for a moment does not let anything go on into them.
        Mode::Held if !around.pressing().is_empty() => return decide(now),
        _ if stance.undecided => return decide(now),
        _ => {}
    }
    let planned = [end, stance.wait].into_iter().flatten().min();
    if planned.is_some_and(|time| time <= now) {
        return decide(now);
    }
    let mut until = state.horizon(scene, who).min(planned.unwrap_or(Time::MAX));
    let path = state.path(scene, who, now, if until < Time::MAX { until } else { now });
    let bounds = if around.is_loaded() {
        path.bounds(&std::iter::once((&mover.form, Pose::IDENTITY)))
    } else {
        scene.thing(who).body.as_ref()?.bounds(&path)
    };
    let bounds = bounds.grown(Mover::SKIN + SUPPORT);
    let obstacles = around.obstacles(&bounds);
    for by in obstacles.iter().filter_map(|obstacle| obstacle.by) {
        until = until.min(state.horizon(scene, by));
    }
    let last = if until < Time::MAX { until } else { now };
    let path = state.path(scene, who, now, last);
    let mut first: Option<Time> = None;
    let leans = if stance.mode == Mode::Held { &[][..] } else { &stance.leans };
    let mut held: SmallVec<[(Option<EntityId>, Spans); 2]> =
        leans.iter().map(|by| (*by, SmallVec::new())).collect();
    for obstacle in &obstacles {
        let other = match obstacle.by {
            Some(by) => state.path(scene, by, now, last),
            None => Path::still(now, last, around.pose_of(None, now)),
        };
        let before = first.unwrap_or(last);
        let met = meets(around.mover, &path, obstacle, &other, before);
        first = [first, met].into_iter().flatten().min();
        for (_, spans) in held.iter_mut().filter(|(by, _)| *by == obstacle.by) {
            keeps(around.mover, &path, obstacle, &other, spans);
        }
    }
    for (_, spans) in &mut held {
        first = [first, lost(spans, now, last)].into_iter().flatten().min();
    }
    match first {
        Some(time) if time < until || time == now => decide(time),
        _ if until == Time::MAX => None,
        _ => Some(Ahead { time: until, decides: planned == Some(until) }),
    }
}

/// Calls `visit` with each pair of convex pieces of a body and an obstacle, on each stretch during
/// which both move evenly.
fn pairs(
    mover: &Mover,
    path: &Path,
    obstacle: &Obstacle<'_>,
    other: &Path,
    mut visit: impl FnMut(&Segment, &Segment, Glide<'_>, (Pose, &Convex)),
) {
    path.together(other, |own, theirs| {
        let at = |segment: &Segment| (segment.from * obstacle.offset, segment.to * obstacle.offset);
        let (from, to) = at(theirs);
        if obstacle.form.is_ground() {
            let swept = mover.form.bounds(&own.from).join(&mover.form.bounds(&own.to));
            let moved = to.position - from.position;
            let swept = swept.join(&swept.moved(-moved)).grown(SUPPORT);
            obstacle.form.near(&from, &swept, |convex, at| {
                let to = Pose { position: at.position + moved, ..*at };
                let still = Glide { shape: convex, offset: Pose::IDENTITY, from: *at, to };
                for (offset, piece) in &mover.pieces {
                    visit(own, theirs, still, (*offset, piece));
                }
            });
            return;
        }
        for (place, convex) in obstacle.form.pieces() {
            let glide = Glide { shape: convex, offset: place, from, to };
            for (offset, piece) in &mover.pieces {
                visit(own, theirs, glide, (*offset, piece));
            }
        }
    });
}

/// When a body first bumps into an obstacle.
fn meets(
    mover: &Mover,
    path: &Path,
    obstacle: &Obstacle<'_>,
    other: &Path,
    before: Time,
) -> Option<Time> {
    let mut first: Option<Time> = None;
    pairs(mover, path, obstacle, other, |own, theirs, still, (offset, piece)| {
        if own.start > first.unwrap_or(before) {
            return;
        }
        let moving = Glide { shape: piece, offset, from: own.from, to: own.to };
        let (at, pose) = (still.from * still.offset, own.from * offset);
        let apart = gap(still.shape, &at, piece, &pose);
        if apart < DEEP {
            return;
        }
        let met = if apart <= CONTACT {
            let between = crate::geometry::distance(still.shape, &at, piece, &pose);
            let velocity =
                own.velocity(own.start, between.on_b) - theirs.velocity(theirs.start, between.on_a);
            (velocity.dot(between.normal) < -APPROACH).then_some(own.start)
        } else {
            let span = sweep(&still, &moving).first().copied();
            span.map(|span| own.start.towards(own.end, span.start))
        };
        first = [first, met].into_iter().flatten().min();
    });
    first
}

/// Notes the spans during which a body leans against an obstacle.
fn keeps(mover: &Mover, path: &Path, obstacle: &Obstacle<'_>, other: &Path, spans: &mut Spans) {
    pairs(mover, path, obstacle, other, |own, _, still, (offset, piece)| {
        let near = piece.grown(SUPPORT);
        let moving = Glide { shape: &near, offset, from: own.from, to: own.to };
        for span in sweep(&still, &moving) {
            let at = |share| own.start.towards(own.end, share);
            spans.push((at(span.start), at(span.end)));
        }
    });
}

/// When a body first leaves what it leant against during these spans, before the last moment.
fn lost(spans: &mut [(Time, Time)], now: Time, last: Time) -> Option<Time> {
    spans.sort_unstable();
    let mut kept = None;
    for (start, end) in spans.iter().copied() {
        // Two pieces that meet may be some rounding apart.
        let joins = start <= kept.unwrap_or(now) + Time::from_nanos(2);
        if joins {
            kept = kept.max(Some(end));
        }
    }
    match kept {
        None => Some(now),
        Some(kept) if kept < last => Some(kept),
        Some(_) => None,
    }
}
