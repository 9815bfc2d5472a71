//! Pointers: what a player's pointer is on, and where it drags what it holds.

use glam::{DMat3, DQuat, DVec2, DVec3};

use crate::Time;
use crate::describe::{
    Described, Detector, Drag, EntityId, Fault, Field, Lens, Pointer, Scope, range,
};
use crate::geometry::{Pose, ROUNDING, Ray};
use crate::model::{CameraSpec, Scene, Thing};
use crate::resolve::{Owner, Resolve, Resolver};
use crate::space::{Filter, Hit, Space};
use crate::state::{DragState, State};
use crate::why::{Chain, Check, Evidence, Gate, Witness, go_on, run};

use super::pair::{admitted, condition, enabled, own, present};
use super::target::{Failures, Target, belongs, looks_at_target, senses};
use super::{Asked, Detect, limits};

#[derive(Clone, Debug)]
pub(crate) struct PointerSpec {
    pub drag: Option<DragSpec>,
    pub config: Pointer,
}

#[derive(Clone, Copy, Debug)]
pub(crate) enum DragSpec {
    Plane(DVec3),
    Axis(DVec3),
    Surface(EntityId),
}

impl Described for Pointer {
    type Spec = PointerSpec;
}

impl Resolve for Pointer {
    fn resolve(&self, resolver: &mut Resolver, _: Owner<'_>, field: &Field) -> Option<PointerSpec> {
        resolver.range(field.key("reach"), self.reach, &range::LENGTH);
        let along = field.key("drag");
        let drag = match &self.drag {
            None => None,
            Some(Drag::Surface(name)) => {
                resolver.entity(name, &along.key("surface")).map(DragSpec::Surface)
            }
            Some(Drag::Plane(way)) => resolver.way(*way, &along.key("plane")).map(DragSpec::Plane),
            Some(Drag::Axis(way)) => resolver.way(*way, &along.key("axis")).map(DragSpec::Axis),
        };
        Some(PointerSpec { drag, config: self.clone() })
    }
}

impl Detect for Pointer {
    fn asked(_: &PointerSpec, _: &Thing) -> Asked {
        Asked::ByPlayers
    }

    fn scope(&self) -> Scope {
        Scope { players: true, ..Scope::default() }
    }
}

/// The gates of a pointer detector, in order.
const fn gates<'a>() -> [Check<Look<'a>>; 7] {
    [
        enabled(),
        present(),
        admitted(),
        own(),
        condition(),
        Check {
            gate: Gate::InView,
            passes: |look| look.is_on(),
            evidence: |look| match look.hit {
                Some(hit) if hit.entity != look.target.on => Evidence::HiddenBy(hit.entity),
                _ => {
                    let Target { space, on, who, .. } = look.target;
                    let place = space.state.pose(space.scene, on, space.state.now).position;
                    let is = on_screen(space, who, place).map(|(x, y)| [x, y]);
                    Evidence::Pointed { at: [look.at.0, look.at.1], is }
                }
            },
        },
        Check {
            gate: Gate::InRange,
            passes: |look| look.distance() <= look.reach(),
            evidence: |look| Evidence::Range { got: look.distance(), most: look.reach() },
        },
    ]
}

struct Look<'a> {
    target: Target<'a>,
    hit: Option<Hit>,
    /// Where the pointer is, in pixels.
    at: (f64, f64),
}

looks_at_target!(Look<'_>);

impl Look<'_> {
    /// Whether the pointer is on it, or on something below it that counts for it.
    fn is_on(&self) -> bool {
        let Target { space, on, .. } = self.target;
        let Some(hit) = self.hit else { return false };
        let spec = senses(space.scene, on).and_then(|senses| senses.pointer.as_ref());
        let children = spec.is_some_and(|spec| spec.config.children);
        hit.entity == on || (children && belongs(space, hit.entity, on))
    }

    fn distance(&self) -> f64 {
        self.hit.map_or(f64::INFINITY, |hit| hit.distance)
    }

    fn reach(&self) -> f64 {
        let senses = senses(self.target.scene(), self.target.on);
        senses.and_then(|senses| senses.pointer.as_ref()).map_or(0.0, |spec| spec.config.reach)
    }
}

/// What a pointer is on.
pub(crate) struct Pointed {
    /// What the ray met first.
    pub hit: Hit,
    /// Those who detect it, the thing itself before its ancestors.
    pub chain: Vec<EntityId>,
}

/// Finds out what a player's pointer is on.
pub(crate) fn ask<W: Witness>(
    space: Space<'_>,
    player: EntityId,
    at: (f64, f64),
    failures: &Failures,
    witness: &mut W,
) -> Option<Pointed> {
    let Space { scene, state, .. } = space;
    let (camera, ray) = ray(space, player, at)?;
    let own = if belongs(space, camera, player) { player } else { camera };
    let points = |entity| scene.has(entity, Detector::Pointer);
    let layers = senses(scene, camera)?.camera.as_ref()?.layers;
    // What hangs on the camera to be pointed at is no part of whoever looks through it.
    let hangs = |entity| entity != camera && belongs(space, entity, camera);
    let others = |entity| !belongs(space, entity, own) || (points(entity) && hangs(entity));
    let things = Filter::solids().and_bodies().layers(layers).only(&others);
    let things = space.ray(&ray, &things);
    let meant = |entity| points(entity) && others(entity);
    let zones = space.ray(&ray, &Filter::zones().layers(layers).only(&meant));
    let hit = match (things, zones) {
        (Some(thing), Some(zone)) if zone.distance < thing.distance => Some(zone),
        (thing, zone) => thing.or(zone),
    };
    let detector = Detector::Pointer;
    let mut chain = Vec::new();
    if W::LISTENS {
        for on in scene.ids().filter(|on| points(*on)) {
            let target = Target { space, on, detector, who: player, failures };
            if hit.is_none_or(|hit| !belongs(space, hit.entity, on))
                && witness.wants(&target.chain())
            {
                let mut look = Look { target, hit, at };
                run(&gates(), &mut look, target.chain(), state.now, witness);
            }
        }
    }
    let hit = hit?;
    for on in state.lineage(scene, hit.entity).filter(|on| points(*on)) {
        let target = Target { space, on, detector, who: player, failures };
        let mut look = Look { target, hit: Some(hit), at };
        if run(&gates(), &mut look, target.chain(), state.now, witness) {
            chain.push(on);
        }
    }
    Some(Pointed { hit, chain })
}

/// Whether a click on something is told, which its limits decide.
pub(crate) fn may_click<W: Witness>(
    (scene, state): (&Scene, &State),
    on: EntityId,
    player: EntityId,
    witness: &mut W,
) -> bool {
    struct Click<'a> {
        left: bool,
        ready: Option<Time>,
        state: &'a State,
    }
    let detector = Detector::Pointer;
    let left = limits::is_left(scene, state, (on, detector));
    let ready = limits::ready_at(scene, state, (on, detector, player));
    let gates = [
        Check::<Click<'_>> {
            gate: Gate::Once,
            passes: |click| click.left,
            evidence: |_| Evidence::None,
        },
        Check {
            gate: Gate::Cooldown,
            passes: |click| click.ready.is_none_or(|ready| click.state.now >= ready),
            evidence: |click| click.ready.map_or(Evidence::None, Evidence::ReadyAt),
        },
    ];
    let chain = Chain::Use { on, detector, who: player };
    go_on(&gates, &mut Click { left, ready, state }, chain, state.now, witness)
}

/// Lets a witness hear that a player pointed at something behind the camera.
pub(crate) fn hear_behind<W: Witness>(on: EntityId, who: EntityId, now: Time, witness: &mut W) {
    let gate =
        [Check::<()> { gate: Gate::OnScreen, passes: |()| false, evidence: |()| Evidence::None }];
    let chain = Chain::Use { on, detector: Detector::Pointer, who };
    run(&gate, &mut (), chain, now, witness);
}

/// How a camera looks, in the world.
fn view(Space { scene, state, .. }: Space<'_>, camera: EntityId) -> Option<(Pose, &CameraSpec)> {
    let spec = senses(scene, camera)?.camera.as_ref()?;
    let pose = state.pose(scene, camera, state.now);
    let Some(to) = spec.look_at else { return Some((pose, spec)) };
    let way = state.pose(scene, to, state.now).position - pose.position;
    let Some(ahead) = way.try_normalize() else { return Some((pose, spec)) };
    // Straight up or down, the picture's top is to the north.
    let right = ahead.cross(DVec3::Y).try_normalize().unwrap_or(DVec3::X);
    let rotation = DQuat::from_mat3(&DMat3::from_cols(right, right.cross(ahead), -ahead));
    Some((Pose { rotation: rotation.normalize(), ..pose }, spec))
}

/// How much is seen from the middle to the top, a metre away. The same on every machine.
fn half_height(angle: f64) -> f64 {
    let half = DVec2::from_angle(angle / 2.0);
    half.y / half.x
}

/// The ray through a point of the screen, and whose camera it is.
pub(crate) fn ray(space: Space<'_>, player: EntityId, at: (f64, f64)) -> Option<(EntityId, Ray)> {
    let camera = space.scene.camera_of(player)?;
    let (pose, spec) = view(space, camera)?;
    let [width, height] = spec.config.viewport;
    let (x, y) = ((2.0 * at.0 / width - 1.0) * width / height, 1.0 - 2.0 * at.1 / height);
    let (from, way) = match spec.config.lens {
        Lens::Perspective { angle } => {
            let half = half_height(angle);
            (DVec3::ZERO, DVec3::new(x * half, y * half, -1.0))
        }
        Lens::Orthographic { height } => {
            (DVec3::new(x * height / 2.0, y * height / 2.0, 0.0), DVec3::NEG_Z)
        }
    };
    let ray = Ray::new(pose.point(from), pose.rotation * way, f64::INFINITY).ok()?;
    Some((camera, ray))
}

/// The ray through a point of a player's screen, in pixels from the top left; none if no camera is the
/// player's.
///
/// # Errors
/// If the point is more than a million pixels away.
pub(crate) fn screen_ray(
    space: Space<'_>,
    player: EntityId,
    [x, y]: [f64; 2],
) -> Result<Option<Ray>, Fault> {
    [x, y].iter().try_for_each(|at| range::SCREEN.check(*at))?;
    Ok(ray(space, player, (x, y)).map(|(_, ray)| ray))
}

/// Where a place is on a player's screen, in pixels; none if it is behind the camera.
pub(crate) fn on_screen(space: Space<'_>, player: EntityId, place: DVec3) -> Option<(f64, f64)> {
    let (pose, spec) = view(space, space.scene.camera_of(player)?)?;
    let [width, height] = spec.config.viewport;
    let local = pose.inverse().point(place);
    let (x, y) = match spec.config.lens {
        Lens::Perspective { .. } if local.z >= -ROUNDING => return None,
        Lens::Perspective { angle } => {
            let half = half_height(angle) * -local.z;
            (local.x / half, local.y / half)
        }
        Lens::Orthographic { height } => (local.x / (height / 2.0), local.y / (height / 2.0)),
    };
    Some(((x * height / width + 1.0) * width / 2.0, (1.0 - y) * height / 2.0))
}

/// Where the origin of what is held would be now.
pub(crate) fn drag(
    space: Space<'_>,
    player: EntityId,
    at: (f64, f64),
    grip: &DragState,
) -> Option<DVec3> {
    let Space { scene, state, .. } = space;
    let drag = senses(scene, grip.what)?.pointer.as_ref()?.drag?;
    let (_, ray) = ray(space, player, at)?;
    let (origin, way) = (ray.origin(), ray.direction());
    let point = match drag {
        DragSpec::Plane(normal) => {
            let slant = way.dot(normal);
            let along = (grip.point - origin).dot(normal) / slant;
            (slant.abs() > ROUNDING && along >= 0.0).then(|| ray.at(along))?
        }
        DragSpec::Axis(axis) => {
            // Where the line comes nearest to the ray.
            let between = origin - grip.point;
            let (cos, slant) = (axis.dot(way), 1.0 - axis.dot(way).powi(2));
            let along = (between.dot(axis) - cos * between.dot(way)) / slant;
            (slant > ROUNDING).then(|| grip.point + axis * along)?
        }
        DragSpec::Surface(surface) => {
            let pose = state.pose(scene, surface, state.now);
            let thing = scene.thing(surface);
            let form = thing.zone.as_ref().map(|zone| &zone.form);
            let form = form.or(thing.solid.as_ref().map(|solid| &solid.form))?;
            ray.at(form.cast(&ray, &pose)?.distance)
        }
    };
    Some(point + grip.offset)
}
