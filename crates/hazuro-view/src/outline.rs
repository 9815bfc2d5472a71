//! The outlines of forms in a view.

use std::f64::consts::TAU;

use hazuro::geometry::{Aabb, Convex, Form, Pose, Ray};
use hazuro::glam::DVec3;

use crate::view::{Flat, View, Window};

/// Into how many directions a shape is sounded out at first.
const DIRECTIONS: u32 = 12;
/// How far beyond an edge there may still be something, as a share of the shape's reach.
const SLACK: f64 = 0.005;
/// How often an edge is halved at most.
const DEPTH: u32 = 4;
/// Of ground with more pieces than this only the bounds are drawn.
const MOST_FACETS: usize = 6000;

/// A closed outline in a drawing, counter-clockwise.
#[derive(Clone, Debug, PartialEq)]
pub struct Outline {
    /// Its corners, in metres.
    pub points: Vec<Flat>,
    /// How near to the eye its nearest point is.
    pub nearness: f64,
}

impl Outline {
    /// What it covers.
    pub fn window(&self) -> Window {
        self.points.iter().fold(Window::EMPTY, |window, point| window.and(*point))
    }
}

/// The outlines of a form at a pose: one for each of its convex pieces. What has no end is cut off
/// at the window; seen from above, what lies below has no outline.
///
/// ```
/// use hazuro::geometry::{Form, Pose, Shape};
/// use hazuro_view::{View, Window, outlines};
/// let form = Form::new(&Shape::Box { size: [4.0, 2.0, 1.0] })?;
/// let outlines = outlines(&form, &Pose::IDENTITY, View::Top, &Window::EMPTY);
/// assert_eq!(outlines[0].points, [[-2.0, -0.5], [2.0, -0.5], [2.0, 0.5], [-2.0, 0.5]]);
/// # Ok::<(), hazuro::geometry::ShapeError>(())
/// ```
pub fn outlines(form: &Form, pose: &Pose, view: View, window: &Window) -> Vec<Outline> {
    if form.is_ground() {
        return ground(form, pose, view);
    }
    let outline = |(at, convex): (Pose, &Convex)| {
        let pose = *pose * at;
        if convex.is_endless() {
            endless(&pose, view, window)
        } else {
            of_convex(convex, &pose, view)
        }
    };
    form.pieces().filter_map(outline).collect()
}

/// Of ground: each of its facets.
fn ground(form: &Form, pose: &Pose, view: View) -> Vec<Outline> {
    let bounds = form.bounds(pose);
    let mut facets = Vec::new();
    form.near(pose, &bounds, |convex, at| {
        if facets.len() <= MOST_FACETS {
            facets.extend(of_convex(convex, at, view));
        }
    });
    if facets.len() > MOST_FACETS {
        return vec![of_bounds(&bounds, view)];
    }
    if view == View::Top {
        for facet in &mut facets {
            facet.nearness = height(form, pose, &bounds, facet);
        }
    }
    facets
}

/// How high a facet of ground is in its middle.
fn height(form: &Form, pose: &Pose, bounds: &Aabb, facet: &Outline) -> f64 {
    let [x, y] = facet.window().middle();
    let from = DVec3::new(x, bounds.max.y + 1.0, -y);
    let deep = from.y - bounds.min.y + 1.0;
    let found = Ray::new(from, DVec3::NEG_Y, deep).ok().and_then(|ray| form.cast(&ray, pose));
    found.map_or(facet.nearness, |contact| from.y - contact.distance)
}

fn of_bounds(bounds: &Aabb, view: View) -> Outline {
    let Window { min, max } = Window::of(view, bounds);
    let points = vec![min, [max[0], min[1]], max, [min[0], max[1]]];
    Outline { points, nearness: view.nearness(bounds.max) }
}

/// The hull of the farthest points in directions all round, and then, edge by edge, of those farther
/// out: exact for what has corners, to a two-hundredth of its reach for what is round.
fn of_convex(convex: &Convex, pose: &Pose, view: View) -> Option<Outline> {
    let farthest = |way: Flat| view.flat(convex.support(pose, view.direction(way)));
    let slack = convex.reach() * SLACK;
    let around = (0..DIRECTIONS).map(|turn| {
        // Off the axes, so that no face is looked at edge on and both of its ends are found.
        let angle = (f64::from(turn) + 0.37) / f64::from(DIRECTIONS) * TAU;
        farthest([angle.cos(), angle.sin()])
    });
    let coarse = hull(around.collect());
    let mut points = Vec::new();
    for (index, from) in coarse.iter().enumerate() {
        points.push(*from);
        refine(*from, coarse[(index + 1) % coarse.len()], slack, DEPTH, &farthest, &mut points);
    }
    let points = hull(points);
    let ahead = match view {
        View::Top => DVec3::Y,
        View::Front => DVec3::Z,
        View::Side => DVec3::X,
    };
    let nearness = view.nearness(convex.support(pose, ahead));
    (points.len() > 2).then_some(Outline { points, nearness })
}

/// Adds the points that lie farther out than the edge from one point to another, in order.
fn refine(
    from: Flat,
    to: Flat,
    slack: f64,
    depth: u32,
    farthest: &dyn Fn(Flat) -> Flat,
    points: &mut Vec<Flat>,
) {
    let (dx, dy) = (to[0] - from[0], to[1] - from[1]);
    let length = dx.hypot(dy);
    if depth == 0 || length < 1e-9 {
        return;
    }
    let out = [dy / length, -dx / length];
    let middle = farthest(out);
    let beyond = (middle[0] - from[0]) * out[0] + (middle[1] - from[1]) * out[1];
    // What is thin is not to vanish, so more than nothing counts where there is nothing else.
    if beyond > slack.min(length * SLACK) {
        refine(from, middle, slack, depth - 1, farthest, points);
        points.push(middle);
        refine(middle, to, slack, depth - 1, farthest, points);
    }
}

/// Of a half-space: what of the window lies in it, if its face is seen edge on.
fn endless(pose: &Pose, view: View, window: &Window) -> Option<Outline> {
    if window.is_empty() {
        return None;
    }
    let up = pose.rotation * DVec3::Y;
    let normal = view.flat(up);
    if normal[0].hypot(normal[1]) < 1e-6 {
        return None;
    }
    let origin = view.flat(pose.position);
    let above = |[x, y]: Flat| (x - origin[0]) * normal[0] + (y - origin[1]) * normal[1];
    let Window { min, max } = *window;
    let corners = [min, [max[0], min[1]], max, [min[0], max[1]]];
    let mut points = Vec::new();
    for (index, from) in corners.iter().enumerate() {
        let to = corners[(index + 1) % corners.len()];
        let (here, there) = (above(*from), above(to));
        if here <= 0.0 {
            points.push(*from);
        }
        if here * there < 0.0 {
            let part = here / (here - there);
            let between = |axis: usize| from[axis] + (to[axis] - from[axis]) * part;
            points.push([between(0), between(1)]);
        }
    }
    (points.len() > 2).then_some(Outline { points, nearness: f64::NEG_INFINITY })
}

/// The convex hull of points, counter-clockwise. Source: A. M. Andrew, "Another efficient algorithm
/// for convex hulls in two dimensions", Information Processing Letters 9(5), 1979.
pub(crate) fn hull(mut points: Vec<Flat>) -> Vec<Flat> {
    points.sort_by(|a, b| a[0].total_cmp(&b[0]).then(a[1].total_cmp(&b[1])));
    points.dedup_by(|a, b| (a[0] - b[0]).abs() < 1e-9 && (a[1] - b[1]).abs() < 1e-9);
    if points.len() < 3 {
        return points;
    }
    let turns_left = |a: Flat, b: Flat, c: Flat| {
        (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]) > 1e-12
    };
    let half = |points: &mut dyn Iterator<Item = Flat>| {
        let mut chain: Vec<Flat> = Vec::new();
        for point in points {
            while let [.., a, b] = chain[..]
                && !turns_left(a, b, point)
            {
                chain.pop();
            }
            chain.push(point);
        }
        chain.pop();
        chain
    };
    let mut lower = half(&mut points.iter().copied());
    lower.extend(half(&mut points.iter().rev().copied()));
    lower
}
