//! What there is to draw of one moment of a play.

use std::collections::{BTreeMap, BTreeSet};
use std::f64::consts::FRAC_PI_2;

use hazuro::geometry::{Form, Pose};
use hazuro::glam::{DQuat, DVec3};
use hazuro::scene::{Detector, EventKind, Scene};
use hazuro::{EntityId, Entry, Play, Time};

use crate::outline::{Outline, hull, outlines};
use crate::recording::Switches;
use crate::theme::Mark;
use crate::view::{Flat, View, Window};

/// How long a detector that fired is shown as such.
pub const AFTERGLOW: Time = Time::from_nanos(500_000_000);

/// How far around a place without a shape something is highlighted, in metres.
const BARE: f64 = 0.4;

/// When each detector last fired.
///
/// ```
/// use hazuro::{Play, Scene, Time, geometry::Shape, scene::{Body, Entity, Zone}};
/// use hazuro_view::{Firings, Mark, figures};
/// let cube = Shape::Box { size: [1.0; 3] };
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("ball").body(Body::new(cube.clone())))
///     .entity(Entity::new("slot").zone(Zone::new(cube)))
///     .build()?;
/// let mut play = Play::new(scene);
/// let mut firings = Firings::default();
/// firings.note(play.advance(Time::from_secs(0.1)));
/// let marks: Vec<Mark> = figures(&play, &firings).iter().map(|figure| figure.mark).collect();
/// assert_eq!(marks, [Mark::Body, Mark::Fired]);
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct Firings(BTreeMap<EntityId, Time>);

impl Firings {
    /// Notes what happened.
    pub fn note(&mut self, entries: &[Entry]) {
        for event in entries.iter().filter_map(Entry::event) {
            let fires = event.kind.detector().is_some() && !closes_only(event.kind);
            if let Some(on) = event.on.filter(|_| fires) {
                self.0.insert(on, event.time);
            }
        }
    }

    /// Forgets everything.
    pub fn clear(&mut self) {
        self.0.clear();
    }

    fn is_recent(&self, on: EntityId, now: Time) -> bool {
        self.0.get(&on).is_some_and(|time| now - *time < AFTERGLOW)
    }
}

/// Whether an event only ends a detection.
pub(crate) fn closes_only(kind: EventKind) -> bool {
    kind.is_closing() && !kind.is_opening()
}

/// One thing to draw.
#[derive(Clone, Debug)]
pub struct Figure<'a> {
    /// What it is shown as.
    pub mark: Mark,
    /// What it is shown as while it is on and nothing happens to it.
    pub plain: Mark,
    /// Whose it is.
    pub entity: EntityId,
    /// What is written beside it, if anything.
    pub label: Option<String>,
    /// Where and how.
    pub drawn: Drawn<'a>,
}

/// Where a thing is, in the world.
#[derive(Clone, Debug)]
pub enum Drawn<'a> {
    /// A form at a pose.
    Form(&'a Form, Pose),
    /// A body of several parts; it faces along -Z of its pose.
    Body(Vec<(&'a Form, Pose)>, Pose),
    /// From point to point.
    Line(Vec<DVec3>),
    /// A place.
    Point(DVec3),
    /// A ball around a place, so large.
    Ball(DVec3, f64),
    /// A field of view: from where and whither, how far, and the angles from left to right and from
    /// bottom to top.
    Fan(Pose, f64, [f64; 2]),
}

/// Everything that there is to draw of this moment, in the scene's order; what has been taken out
/// of the play, or is not yet in it, is not there.
///
/// See [`Firings`] for an example.
pub fn figures<'a>(play: &'a Play, firings: &Firings) -> Vec<Figure<'a>> {
    let scene = play.scene();
    let players = scene.ids().filter(|id| scene.is_player(*id));
    let offers = players.flat_map(|player| play.offers(player).unwrap_or_default());
    let highlighted = offers.map(|offer| offer.highlight).collect();
    figures_with(play, firings, highlighted)
}

/// As [`figures`], with these highlighted.
pub(crate) fn figures_with<'a>(
    play: &'a Play,
    firings: &Firings,
    highlighted: BTreeSet<EntityId>,
) -> Vec<Figure<'a>> {
    let scene = play.scene();
    let described = scene.described().count();
    let mut looking = Looking { play, scene, firings, described, highlighted, figures: Vec::new() };
    for entity in play.scene().ids() {
        looking.at(entity);
    }
    looking.figures
}

struct Looking<'a, 'b> {
    play: &'a Play,
    scene: &'a Scene,
    firings: &'b Firings,
    /// How many entities are described; what comes after them is stock.
    described: usize,
    /// What is highlighted for any player.
    highlighted: BTreeSet<EntityId>,
    figures: Vec<Figure<'a>>,
}

impl<'a> Looking<'a, '_> {
    fn at(&mut self, entity: EntityId) {
        let switches = Switches::of(&self.play.facts(), entity);
        if !switches.there {
            return;
        }
        let Ok(pose) = self.play.pose(entity) else { return };
        let before = self.figures.len();
        let label = |works: bool| {
            let how = match (works, switches.visible) {
                (true, true) => "",
                (false, true) => " (off)",
                (true, false) => " (hidden)",
                (false, false) => " (off, hidden)",
            };
            format!("{}{how}", self.scene.name(entity))
        };
        let (on, blocks, detects) = (switches.enabled, switches.solid, switches.detects);
        let (on_label, solid_label, detects_label) = (label(on), label(blocks), label(detects));
        if let Some(form) = self.scene.solid_form(entity) {
            let mark = if form.is_ground() { Mark::Ground } else { Mark::Solid };
            self.switched(mark, blocks, entity, Some(solid_label), Drawn::Form(form, pose));
        }
        if self.scene.has_body(entity) {
            let parts = self.scene.parts(entity).map(|(_, form, at)| (form, pose * at));
            let mark = if self.scene.is_player(entity) { Mark::Player } else { Mark::Body };
            let drawn = Drawn::Body(parts.collect(), pose);
            self.switched(mark, on, entity, Some(on_label.clone()), drawn);
        }
        self.detectors(entity, &pose, &detects_label, detects);
        self.route(entity);
        let is_place = entity.index() < self.described
            && self.figures.len() == before
            && self.scene.lens_of(entity).is_none();
        if is_place {
            self.add(Mark::Marker, entity, Some(on_label), Drawn::Point(pose.position));
        }
        if self.highlighted.contains(&entity) {
            self.highlight(entity, pose);
        }
    }

    /// The outline of what is highlighted; a ball around what has no shape.
    fn highlight(&mut self, entity: EntityId, pose: Pose) {
        let body = || {
            let parts = self.scene.parts(entity).map(|(_, form, at)| (form, pose * at));
            self.scene.has_body(entity).then(|| Drawn::Body(parts.collect(), pose))
        };
        let solid = self.scene.solid_form(entity).map(|form| Drawn::Form(form, pose));
        let drawn = solid.or_else(body).unwrap_or(Drawn::Ball(pose.position, BARE));
        self.add(Mark::Highlight, entity, None, drawn);
    }

    fn add(&mut self, mark: Mark, entity: EntityId, label: Option<String>, drawn: Drawn<'a>) {
        let plain = match mark {
            Mark::Off | Mark::Occupied | Mark::Fired => Mark::Idle,
            mark => mark,
        };
        self.figures.push(Figure { mark, plain, entity, label, drawn });
    }

    /// Adds something that may be off.
    fn switched(
        &mut self,
        plain: Mark,
        works: bool,
        entity: EntityId,
        label: Option<String>,
        drawn: Drawn<'a>,
    ) {
        let mark = if works { plain } else { Mark::Off };
        self.figures.push(Figure { mark, plain, entity, label, drawn });
    }

    /// How a detector is now.
    fn mark(&self, on: EntityId, detector: Detector, detects: bool) -> Mark {
        if !detects {
            Mark::Off
        } else if self.firings.is_recent(on, self.play.now()) {
            Mark::Fired
        } else if self.play.detected(on, detector).is_ok_and(|all| !all.is_empty()) {
            Mark::Occupied
        } else {
            Mark::Idle
        }
    }

    fn detectors(&mut self, on: EntityId, pose: &Pose, label: &str, enabled: bool) {
        for detector in [Detector::Zone, Detector::Touch] {
            if let Some(form) = self.scene.region_form(on, detector) {
                let mark = self.mark(on, detector, enabled);
                self.add(mark, on, Some(label.to_owned()), Drawn::Form(form, *pose));
            }
        }
        if self.scene.has(on, Detector::Pointer) {
            let mark = self.mark(on, Detector::Pointer, enabled);
            self.add(mark, on, Some(label.to_owned()), Drawn::Point(pose.position));
        }
        if let Some(prompt) = self.scene.prompt_of(on) {
            let mark = self.mark(on, Detector::Prompt, enabled);
            self.add(mark, on, Some(label.to_owned()), Drawn::Point(pose.position));
            let offered = self.play.detected(on, Detector::Prompt).unwrap_or_default();
            let key = prompt.key.strip_prefix("Key").unwrap_or(&prompt.key);
            let caption = (!offered.is_empty()).then(|| format!("[{key}] {}", prompt.caption));
            if enabled && !prompt.quiet {
                let reach = Drawn::Ball(pose.position, prompt.reach);
                self.add(Mark::Offer, on, caption, reach);
            }
        }
        if let (Some(sight), Ok(Some(eye))) = (self.scene.sight_of(on), self.play.eye(on)) {
            let mark = self.mark(on, Detector::Sight, enabled);
            self.add(mark, on, Some(label.to_owned()), Drawn::Point(eye.position));
            if enabled {
                let fan = Drawn::Fan(eye, sight.range, [sight.angle, sight.rise]);
                self.add(Mark::Sight, on, None, fan);
            }
        }
        if let Some(probe) = self.scene.probe_of(on) {
            // As it was asked last; where its bearer has moved on since, the ray lags behind it.
            let ray = self.play.probe_ray(on).ok().flatten().filter(|_| enabled);
            let here = || [probe.from, probe.to].map(|place| pose.point(place.into()));
            let [from, to] = ray.map_or_else(here, |ray| [ray.from, ray.to]);
            let hit = ray.and_then(|ray| ray.hit);
            let mark = self.mark(on, Detector::Probe, enabled);
            let end = hit.map_or(to, |hit| hit.point);
            self.add(mark, on, Some(label.to_owned()), Drawn::Point(from));
            self.switched(Mark::Ray, enabled, on, None, Drawn::Line(vec![from, end]));
            if hit.is_some() {
                self.add(Mark::Hit, on, None, Drawn::Point(end));
            }
        }
        if self.scene.has(on, Detector::Seeker) {
            let mark = self.mark(on, Detector::Seeker, enabled);
            self.add(mark, on, Some(label.to_owned()), Drawn::Point(pose.position));
            let target = self.play.target(on).ok().flatten().filter(|_| enabled);
            if let Some(there) = target.and_then(|target| self.play.pose(target).ok()) {
                let way = Drawn::Line(vec![pose.position, there.position]);
                self.add(Mark::Target, on, None, way);
            }
        }
    }

    fn route(&mut self, entity: EntityId) {
        let Some(route) = self.scene.route_of(entity) else { return };
        let stop = |name: &String| match name.as_str() {
            "home" => Some(self.scene.pose(entity).position),
            name => Some(self.play.pose(name).ok()?.position),
        };
        let stops: Vec<DVec3> = route.through.iter().filter_map(stop).collect();
        if stops.len() > 1 {
            self.add(Mark::Route, entity, None, Drawn::Line(stops));
        }
    }
}

impl Figure<'_> {
    /// Its outlines in a view; what has no area has none.
    pub fn outlines(&self, view: View, window: &Window) -> Vec<Outline> {
        match &self.drawn {
            Drawn::Form(form, pose) => outlines(form, pose, view, window),
            Drawn::Body(parts, _) => {
                parts.iter().flat_map(|(form, pose)| outlines(form, pose, view, window)).collect()
            }
            Drawn::Ball(middle, radius) => vec![ball(*middle, *radius, view)],
            Drawn::Fan(pose, range, angles) => vec![fan(pose, *range, *angles, view)],
            Drawn::Line(_) | Drawn::Point(_) => Vec::new(),
        }
    }

    /// What it covers in a view; of what has no end, nothing.
    pub fn window(&self, view: View) -> Window {
        let of = |form: &Form, pose: &Pose| {
            if form.is_endless() { Window::EMPTY } else { Window::of(view, &form.bounds(pose)) }
        };
        match &self.drawn {
            Drawn::Form(form, pose) => of(form, pose),
            Drawn::Body(parts, _) => {
                parts.iter().fold(Window::EMPTY, |all, (form, pose)| all.join(of(form, pose)))
            }
            Drawn::Line(points) => {
                points.iter().fold(Window::EMPTY, |all, point| all.and(view.flat(*point)))
            }
            Drawn::Point(place) => Window::EMPTY.and(view.flat(*place)),
            Drawn::Ball(middle, radius) => Window::around(view.flat(*middle), [2.0 * radius; 2]),
            Drawn::Fan(pose, range, angles) => fan(pose, *range, *angles, view).window(),
        }
    }

    /// Where it faces in a view, as a unit vector, if it is a body and that can be seen.
    pub fn facing(&self, view: View) -> Option<Flat> {
        let Drawn::Body(_, pose) = &self.drawn else { return None };
        let [x, y] = view.flat(pose.rotation * DVec3::NEG_Z);
        let length = x.hypot(y);
        (length > 0.1).then(|| [x / length, y / length])
    }

    /// The place to which it belongs: where it is, or begins.
    pub fn place(&self) -> DVec3 {
        match &self.drawn {
            Drawn::Form(_, pose) | Drawn::Body(_, pose) | Drawn::Fan(pose, ..) => pose.position,
            Drawn::Line(points) => points.first().copied().unwrap_or_default(),
            Drawn::Point(place) | Drawn::Ball(place, _) => *place,
        }
    }
}

fn ball(middle: DVec3, radius: f64, view: View) -> Outline {
    let [x, y] = view.flat(middle);
    let point = |step: u32| {
        let angle = f64::from(step) / 24.0 * FRAC_PI_2 * 4.0;
        [x + radius * angle.cos(), y + radius * angle.sin()]
    };
    Outline { points: (0..24).map(point).collect(), nearness: view.nearness(middle) }
}

fn fan(eye: &Pose, range: f64, [angle, rise]: [f64; 2], view: View) -> Outline {
    const STEPS: i32 = 12;
    let far = |turn: f64, lift: f64| {
        let way = DQuat::from_rotation_y(turn) * DQuat::from_rotation_x(lift) * DVec3::NEG_Z;
        view.flat(eye.point(way * range))
    };
    let turns = (-STEPS..=STEPS).map(|step| angle / 2.0 * f64::from(step) / f64::from(STEPS));
    let from = view.flat(eye.position);
    let points = if view == View::Top {
        turns.map(|turn| far(turn, 0.0)).chain([from]).collect()
    } else {
        let lifts = [-0.5, -0.25, 0.0, 0.25, 0.5].map(|part| part * rise);
        let all = turns.flat_map(|turn| lifts.map(|lift| far(turn, lift)));
        hull(all.chain([from]).collect())
    };
    Outline { points, nearness: view.nearness(eye.position) }
}
