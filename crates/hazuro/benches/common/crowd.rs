//! A crowd among zones, and what finds by hand who is in which.

use hazuro::geometry::{Pose, Shape};
use hazuro::glam::{DQuat, DVec2, DVec3};
use hazuro::scene::{Admit, Body, Entity, Prompt, SceneBuilder, Sight, Zone};
use hazuro::{Play, Scene};
use rstar::{AABB, RTree, primitives::GeomWithData, primitives::Rectangle};

use super::{Block, Chance};

/// The radius of what walks about, and half its width.
pub const RADIUS: f64 = 0.4;
/// How far any of them reaches along the ground, and how far at all: a turned box, a capsule.
const WIDE: f64 = RADIUS * std::f64::consts::SQRT_2;
const REACH: DVec3 = DVec3::new(WIDE, HALF, WIDE);
/// Half the height of what is not a ball.
const HALF: f64 = 0.9;
const SPEED: f64 = 3.0;
/// Ticks a second.
pub const RATE: u32 = 60;
/// How long it takes until all have set out, in seconds.
const SPREAD: f64 = 7.0;
/// How fast those turn that turn, in radians a second.
const TURN: f64 = 4.0;

/// What walks about.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Figure {
    Ball,
    Capsule,
    Box,
}

impl Figure {
    fn shape(self) -> Shape {
        match self {
            Self::Ball => Shape::Sphere { radius: RADIUS },
            Self::Capsule => Shape::Capsule { radius: RADIUS, height: 2.0 * HALF },
            Self::Box => Shape::Box { size: [2.0 * RADIUS, 2.0 * HALF, 2.0 * RADIUS] },
        }
    }

    /// Whether it is in a zone, turned about Y by so many radians.
    fn touches(self, zone: &Block, at: DVec3, yaw: f64) -> bool {
        let (low, high) = (zone.center - zone.half, zone.center + zone.half);
        match self {
            Self::Ball => zone.touches_ball(at, RADIUS),
            Self::Capsule => {
                let stem = HALF - RADIUS;
                let up = (low.y - at.y - stem).max(at.y - stem - high.y).max(0.0);
                let aside = at.clamp(low, high) - at;
                DVec3::new(aside.x, up, aside.z).length() <= RADIUS
            }
            Self::Box => {
                // Axes that may part two rectangles: those of either.
                let (sine, cosine) = yaw.sin_cos();
                let away = DVec2::new(zone.center.x - at.x, zone.center.z - at.z);
                let half = DVec2::new(zone.half.x, zone.half.z);
                let own = RADIUS * (sine.abs() + cosine.abs());
                let [along, across] = [DVec2::new(cosine, -sine), DVec2::new(sine, cosine)];
                let parted = |axis: DVec2| away.dot(axis).abs() > RADIUS + half.dot(axis.abs());
                (zone.center.y - at.y).abs() <= zone.half.y + HALF
                    && away.x.abs() <= half.x + own
                    && away.y.abs() <= half.y + own
                    && !parted(along)
                    && !parted(across)
            }
        }
    }
}

/// Zones, and a crowd that walks from one random place to the next.
pub struct World {
    pub zones: Vec<Block>,
    pub walkers: Vec<Walker>,
    pub figure: Figure,
}

pub struct Walker {
    pub from: DVec3,
    pub to: DVec3,
    pub start: f64,
    pub end: f64,
}

impl Walker {
    /// One who sets out some time from the start on.
    fn resting(place: DVec3, chance: &mut Chance) -> Self {
        Self { from: place, to: place, start: 0.0, end: chance.unit() * SPREAD }
    }

    pub fn at(&self, time: f64) -> DVec3 {
        self.from.lerp(self.to, ((time - self.start) / (self.end - self.start)).clamp(0.0, 1.0))
    }
}

impl World {
    /// Boxes of 2 to 6 m, half a box per point of ground; walkers all over.
    pub fn even(zones: usize, walkers: usize) -> Self {
        let mut chance = Chance::new(7);
        let side = (zones as f64 * 32.0).sqrt();
        let zones = (0..zones).map(|_| {
            let half = DVec3::from_array([0; 3].map(|_| chance.between(1.0, 3.0)));
            let [x, z] = [0; 2].map(|_| chance.unit() * side);
            Block { center: DVec3::new(x, half.y, z), half }
        });
        let zones = zones.collect();
        let places = (0..walkers).map(|_| {
            let [x, z] = [0; 2].map(|_| chance.unit() * side);
            DVec3::new(x, RADIUS, z)
        });
        let places: Vec<DVec3> = places.collect();
        let resting = |place| Walker::resting(place, &mut chance);
        Self { zones, walkers: places.into_iter().map(resting).collect(), figure: Figure::Ball }
    }

    /// Zones of 0.2 to 200 m on thirty storeys, nine walkers in ten in one hall.
    pub fn uneven(zones: usize, walkers: usize) -> Self {
        let mut chance = Chance::new(11);
        let side = (zones as f64).sqrt() * 3.0;
        let storey = |chance: &mut Chance| (chance.unit() * 30.0).floor() * 4.0;
        let zones = (0..zones).map(|_| {
            // As many of each size from 0.2 to 200 m, on a scale of ratios; most small.
            let size = 0.2 * 1000_f64.powf(chance.unit().powi(3));
            let [x, z] = [0; 2].map(|_| chance.unit() * side);
            let half = DVec3::new(size / 2.0, (size / 2.0).min(1.9), size / 2.0);
            Block { center: DVec3::new(x, storey(&mut chance) + half.y, z), half }
        });
        let zones = zones.collect();
        let walkers = (0..walkers).map(|index| {
            let (low, high, floor) = if index % 10 == 0 {
                (0.0, side, storey(&mut chance))
            } else {
                (side * 0.5, side * 0.5 + 40.0, 0.0)
            };
            let [x, z] = [0; 2].map(|_| chance.between(low, high));
            let place = DVec3::new(x, floor + RADIUS, z);
            Walker::resting(place, &mut chance)
        });
        let walkers = walkers.collect();
        Self { zones, walkers, figure: Figure::Ball }
    }

    /// With others walking about.
    pub fn of(mut self, figure: Figure) -> Self {
        let higher = if figure == Figure::Ball { 0.0 } else { HALF - RADIUS };
        for walker in &mut self.walkers {
            walker.from.y += higher;
            walker.to.y += higher;
        }
        Self { figure, ..self }
    }

    /// How far somebody is turned at a time, in radians, if they turn.
    pub fn yaw(index: usize, time: f64) -> f64 {
        index as f64 + TURN * time
    }

    /// Where somebody is at a time, turning or not.
    pub fn pose(&self, index: usize, time: f64, turns: bool) -> Pose {
        let yaw = if turns { Self::yaw(index, time) } else { 0.0 };
        let rotation = DQuat::from_rotation_y(yaw);
        Pose { position: self.walkers[index].at(time), rotation }
    }

    /// Sends those who have arrived on to another place some 20 m away; calls `sent` for each.
    pub fn send_on(
        &mut self,
        time: f64,
        chance: &mut Chance,
        mut sent: impl FnMut(usize, &Walker),
    ) {
        for (index, walker) in self.walkers.iter_mut().enumerate() {
            if walker.end <= time {
                let from = walker.to;
                let angle = chance.unit() * std::f64::consts::TAU;
                let length = chance.between(10.0, 30.0);
                let to = from + DVec3::new(angle.cos(), 0.0, angle.sin()) * length;
                *walker = Walker { from, to, start: time, end: time + length / SPEED };
                sent(index, walker);
            }
        }
    }

    pub fn play(&self) -> Play {
        Play::new(self.scene().build().expect("a good scene"))
    }

    /// As [`play`](Self::play), with a guard and a prompt in the middle that admit one hero.
    pub fn guarded(&self) -> Play {
        let middle = self.walkers.iter().map(|walker| walker.from).sum::<DVec3>();
        let middle = middle / self.walkers.len() as f64;
        let at = |aside: f64| (middle + DVec3::X * aside).to_array();
        let hero = || Admit::tags(["hero"]);
        let (sight, prompt) = (Sight { range: 30.0, ..Sight::default() }, Prompt::default());
        let hero_body = Body::new(Figure::Capsule.shape());
        let scene = self
            .scene()
            .entity(Entity::new("guard").at(at(0.0)).sight(sight).admit(hero()))
            .entity(Entity::new("lever").at(at(2.0)).prompt(prompt).admit(hero()))
            .entity(Entity::new("hero").at(at(4.0)).player(true).tags(["hero"]).body(hero_body));
        Play::new(scene.build().expect("a good scene"))
    }

    fn scene(&self) -> SceneBuilder {
        let mut scene = Scene::builder("Bench").rate(RATE);
        for (index, zone) in self.zones.iter().enumerate() {
            let size = (zone.half * 2.0).to_array();
            let zone_shape = Zone::new(Shape::Box { size });
            let entity =
                Entity::new(format!("z{index}")).at(zone.center.to_array()).zone(zone_shape);
            scene = scene.entity(entity);
        }
        for (index, walker) in self.walkers.iter().enumerate() {
            let body = Body::new(self.figure.shape());
            scene = scene
                .entity(Entity::new(format!("w{index}")).at(walker.from.to_array()).body(body));
        }
        scene
    }
}

/// What finds the zones that somebody touches.
pub trait Yardstick {
    /// Calls `visit` with those zones that may be touched from somewhere.
    fn near(&self, world: &World, at: DVec3, visit: impl FnMut(u32));

    /// Adds the zones that a walker touches.
    fn pairs(
        &self,
        world: &World,
        walker: u32,
        (at, yaw): (DVec3, f64),
        found: &mut Vec<(u32, u32)>,
    ) {
        self.near(world, at, |zone| {
            if world.figure.touches(&world.zones[zone as usize], at, yaw) {
                found.push((zone, walker));
            }
        });
    }
}

/// Every zone.
pub struct Brute;

impl Yardstick for Brute {
    fn near(&self, world: &World, _: DVec3, visit: impl FnMut(u32)) {
        (0..world.zones.len() as u32).for_each(visit);
    }
}

/// A uniform grid of cells of 8 m, along the ground.
pub struct Grid {
    width: i64,
    low: i64,
    pub cells: Vec<Vec<u32>>,
}

const CELL: f64 = 8.0;

impl Grid {
    pub fn new(zones: &[Block]) -> Self {
        let low = zones.iter().map(|z| (z.center - z.half).min_element()).fold(0.0, f64::min);
        let high = zones.iter().map(|z| (z.center + z.half).max_element()).fold(0.0, f64::max);
        let low = (low / CELL).floor() as i64;
        let width = (high / CELL).floor() as i64 - low + 1;
        let mut grid = Self { width, low, cells: vec![Vec::new(); (width * width) as usize] };
        for (index, zone) in zones.iter().enumerate() {
            for cell in grid.cells_of(zone.center - zone.half, zone.center + zone.half) {
                grid.cells[cell].push(index as u32);
            }
        }
        grid
    }

    pub fn cells_of(&self, low: DVec3, high: DVec3) -> impl Iterator<Item = usize> + use<> {
        let cell = |value: f64| ((value / CELL).floor() as i64 - self.low).clamp(0, self.width - 1);
        let (x0, x1, z0, z1) = (cell(low.x), cell(high.x), cell(low.z), cell(high.z));
        let width = self.width;
        (z0..=z1).flat_map(move |z| (x0..=x1).map(move |x| (z * width + x) as usize))
    }
}

impl Yardstick for Grid {
    fn near(&self, _: &World, at: DVec3, visit: impl FnMut(u32)) {
        let cells = self.cells_of(at - WIDE, at + WIDE);
        cells.flat_map(|cell| &self.cells[cell]).copied().for_each(visit);
    }
}

pub type Boxed = GeomWithData<Rectangle<[f64; 3]>, u32>;

impl Yardstick for RTree<Boxed> {
    fn near(&self, _: &World, at: DVec3, visit: impl FnMut(u32)) {
        let envelope = AABB::from_corners((at - REACH).to_array(), (at + REACH).to_array());
        self.locate_in_envelope_intersecting(envelope).map(|zone| zone.data).for_each(visit);
    }
}

pub fn rstar_of(zones: &[Block]) -> RTree<Boxed> {
    let boxes = zones.iter().enumerate().map(|(index, zone)| {
        let (low, high) = (zone.center - zone.half, zone.center + zone.half);
        let rectangle = Rectangle::from_corners(low.to_array(), high.to_array());
        GeomWithData::new(rectangle, index as u32)
    });
    RTree::bulk_load(boxes.collect())
}
