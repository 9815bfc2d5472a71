//! Where everything that moves is at one moment.
//!
//! Things that move are kept by all that they sweep on the next stretch of their way, which suits
//! detection, as it looks ahead. Questions about one moment are better served by where things are
//! then. If enough questions are asked, that is worked out once for all of them: moving things are
//! ordered along a curve that keeps near ones together (G. M. Morton, "A computer oriented geodetic
//! data base", IBM 1966), and packed into a tree in this order, from tick to tick.

use glam::DVec3;

use crate::Time;
use crate::geometry::Aabb;
use crate::geometry::tree::{Bounds, Item, Tree};

/// How much larger the lowest nodes may become until everything is put in order again.
const DISORDER: f32 = 2.0;

/// A way straight and even, known in advance.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Course {
    pub start: Time,
    pub end: Time,
    /// The bounds at the start.
    pub bounds: Aabb,
    /// Metres a second.
    pub velocity: DVec3,
}

impl Course {
    pub fn bounds(&self, now: Time) -> Aabb {
        let time = now.max(self.start).min(self.end) - self.start;
        self.bounds.moved(self.velocity * time.secs())
    }
}

/// Something that moves.
#[derive(Clone, Copy, Debug)]
struct Member {
    slot: u32,
    /// Whether it still moves.
    moves: bool,
    layers: u64,
    course: Option<Course>,
}

/// What moves, and where it is now.
#[derive(Debug, Default)]
pub(crate) struct Flock {
    tree: Tree,
    /// The moment the tree is true for.
    moment: Option<Time>,
    /// In the order of the curve, as it was, so that they are gone through from one end of the
    /// memory to the other; then those that have joined since.
    members: Vec<Member>,
    /// The place of each slot among the members, or [`NONE`].
    places: Vec<u32>,
    /// How many were put in order, and the surface of the tree then and now.
    ordered: usize,
    surface_then: f32,
    surface: f32,
}

/// No member.
const NONE: u32 = u32::MAX;

impl Flock {
    /// The tree, if it is true for this moment.
    pub fn at(&self, now: Time) -> Option<&Tree> {
        (self.moment == Some(now)).then_some(&self.tree)
    }

    /// Something moves otherwise than before, or no longer: on this course, if any is known.
    pub fn change(&mut self, slot: u32, moves: bool, layers: u64, course: Option<Course>) {
        self.moment = None;
        let index = slot as usize;
        if self.places.len() <= index {
            self.places.resize(index + 1, NONE);
        }
        let member = Member { slot, moves, layers, course };
        match self.members.get_mut(self.places[index] as usize) {
            Some(known) => *known = member,
            None if moves => {
                self.places[index] = self.members.len() as u32;
                self.members.push(member);
            }
            None => {}
        }
    }

    /// Works out where everything is now. `exact` gives the bounds of what is on no known course.
    pub fn refresh(&mut self, now: Time, exact: impl Fn(u32) -> Aabb) {
        self.moment = Some(now);
        let found = |member: &Member| {
            let bounds = match &member.course {
                Some(course) => course.bounds(now),
                None => exact(member.slot),
            };
            let (number, layers) = (member.slot, member.layers);
            (bounds, Item { number, bounds: Bounds::from(&bounds), layers })
        };
        let disorder = self.surface > self.surface_then * DISORDER;
        let stale = disorder || self.members.len() - self.ordered > self.ordered / 8;
        if stale {
            self.put_in_order(|member| found(member).0);
        }
        let moving = self.members.iter().filter(|member| member.moves);
        self.surface = self.tree.repack(moving.map(|member| found(member).1));
        if stale {
            self.surface_then = self.surface;
        }
    }

    /// Puts all that still move in the order of the curve.
    fn put_in_order(&mut self, bounds: impl Fn(&Member) -> Aabb) {
        for member in &self.members {
            self.places[member.slot as usize] = NONE;
        }
        self.members.retain(|member| member.moves);
        let boxes: Vec<Aabb> = self.members.iter().map(bounds).collect();
        let whole = boxes.iter().fold(Aabb::EMPTY, |all, bounds| all.join(bounds));
        // Key and index in one number, which is what sorts fastest.
        let keys = boxes.iter().zip(0_u64..);
        let mut keys: Vec<u64> =
            keys.map(|(bounds, index)| place_on_curve(bounds, &whole) << 25 | index).collect();
        keys.sort_unstable();
        let index = |key: &u64| (key & ((1 << 25) - 1)) as usize;
        self.members = keys.iter().map(|key| self.members[index(key)]).collect();
        for (place, member) in self.members.iter().enumerate() {
            self.places[member.slot as usize] = place as u32;
        }
        self.ordered = self.members.len();
    }
}

/// How far along the curve through a whole the middle of some bounds lies: the bits of its three
/// coordinates, 13 each, in turn.
fn place_on_curve(bounds: &Aabb, whole: &Aabb) -> u64 {
    const STEPS: f64 = ((1_u64 << 13) - 1) as f64;
    let size = (whole.max - whole.min).max_element().max(f64::MIN_POSITIVE);
    let middle = (bounds.min + bounds.max) / 2.0 - whole.min;
    let [x, y, z] = (middle / size * STEPS).to_array().map(|step| spread(step as u64));
    x | y << 1 | z << 2
}

/// The bits of a number, at most 21, each followed by two zeros.
fn spread(bits: u64) -> u64 {
    let mut spread = bits & 0x1f_ffff;
    spread = (spread | spread << 32) & 0x001f_0000_0000_ffff;
    spread = (spread | spread << 16) & 0x001f_0000_ff00_00ff;
    spread = (spread | spread << 8) & 0x100f_00f0_0f00_f00f;
    spread = (spread | spread << 4) & 0x10c3_0c30_c30c_30c3;
    (spread | spread << 2) & 0x1249_2492_4924_9249
}
