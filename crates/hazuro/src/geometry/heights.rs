//! Ground by its heights on a grid.

use glam::DVec3;

use super::convex::{coordinate, length};
use super::mesh::meet_triangle;
use super::{Aabb, Contact, Convex, Pose, ShapeError, TOUCH, distance_to_point};

/// How far it is solid below its lowest point, in metres.
const THICKNESS: f64 = 1.0;

/// A checked field of heights, in its own frame.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Heights {
    spacing: f64,
    /// How many points along x.
    columns: usize,
    /// How many points along z.
    rows: usize,
    /// The height of each point, row by row.
    points: Vec<f64>,
    low: f64,
    high: f64,
}

impl Heights {
    pub fn new(spacing: f64, rows: &[Vec<f64>]) -> Result<Self, ShapeError> {
        let spacing = length("a ground's spacing", spacing)?;
        let columns = rows.first().map_or(0, Vec::len);
        if let Some(row) = rows.iter().position(|row| row.len() != columns) {
            let length = rows[row].len();
            return Err(ShapeError::UnevenRows { row, length, wanted: columns });
        }
        if rows.len() < 2 || columns < 2 {
            return Err(ShapeError::FewHeights);
        }
        let heights: Vec<f64> = rows.iter().flatten().copied().collect();
        for height in &heights {
            coordinate("a height", *height)?;
        }
        let low = heights.iter().copied().fold(f64::INFINITY, f64::min);
        let high = heights.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        Ok(Self { spacing, columns, rows: rows.len(), points: heights, low, high })
    }

    /// Half the extent along x and z.
    fn half(&self) -> (f64, f64) {
        let half = |points: usize| (points - 1) as f64 * self.spacing / 2.0;
        (half(self.columns), half(self.rows))
    }

    fn base(&self) -> f64 {
        self.low - THICKNESS
    }

    pub fn bounds(&self) -> Aabb {
        let (x, z) = self.half();
        Aabb { min: DVec3::new(-x, self.base(), -z), max: DVec3::new(x, self.high, z) }
    }

    fn point(&self, column: usize, row: usize) -> DVec3 {
        let (x, z) = self.half();
        let height = self.points[row * self.columns + column];
        let [column, row] = [column, row].map(|place| place as f64 * self.spacing);
        DVec3::new(column - x, height, row - z)
    }

    /// The two triangles of a cell.
    fn triangles(&self, column: usize, row: usize) -> [[DVec3; 3]; 2] {
        let (a, b) = (self.point(column, row), self.point(column + 1, row));
        let (c, d) = (self.point(column, row + 1), self.point(column + 1, row + 1));
        [[a, c, b], [b, c, d]]
    }

    /// The cell that holds a place along x or z; the outermost for places outside.
    fn cell(&self, place: f64, half: f64, points: usize) -> usize {
        (((place + half) / self.spacing).floor().max(0.0) as usize).min(points - 2)
    }

    /// Calls `visit` with the columns of ground below the triangles that may meet `near`.
    pub fn near(&self, near: &Aabb, mut visit: impl FnMut(&Convex)) {
        if !near.meets(&self.bounds()) {
            return;
        }
        let (x, z) = self.half();
        let columns = [near.min.x, near.max.x].map(|place| self.cell(place, x, self.columns));
        let rows = [near.min.z, near.max.z].map(|place| self.cell(place, z, self.rows));
        let mut column = Convex::of_points(&[DVec3::ZERO; 6]);
        let base = self.base();
        for (i, j) in
            (rows[0]..=rows[1]).flat_map(|j| (columns[0]..=columns[1]).map(move |i| (i, j)))
        {
            for [a, b, c] in self.triangles(i, j) {
                if a.y.max(b.y).max(c.y) >= near.min.y {
                    let foot = |top: DVec3| DVec3 { y: base, ..top };
                    column.set_points(&[a, b, c, foot(a), foot(b), foot(c)]);
                    visit(&column);
                }
            }
        }
    }

    /// The height of the surface at a place inside the grid.
    fn surface(&self, place: DVec3) -> f64 {
        let (x, z) = self.half();
        let (column, row) = (self.cell(place.x, x, self.columns), self.cell(place.z, z, self.rows));
        let corner = self.point(column, row);
        let (u, v) = ((place.x - corner.x) / self.spacing, (place.z - corner.z) / self.spacing);
        let [[a, c, b], [_, _, d]] = self.triangles(column, row);
        if u + v <= 1.0 {
            a.y + (b.y - a.y) * u + (c.y - a.y) * v
        } else {
            d.y + (c.y - d.y) * (1.0 - u) + (b.y - d.y) * (1.0 - v)
        }
    }

    /// Where a ray along a unit vector first meets the ground.
    pub fn cast(&self, from: DVec3, along: DVec3, length: f64) -> Option<Contact> {
        let block = self.bounds();
        let (mut enter, mut leave, mut side) = (0.0_f64, length, None);
        for axis in 0..3 {
            let (start, way) = (from[axis], along[axis]);
            if way == 0.0 {
                if start < block.min[axis] - TOUCH || start > block.max[axis] + TOUCH {
                    return None;
                }
                continue;
            }
            let (one, other) = ((block.min[axis] - start) / way, (block.max[axis] - start) / way);
            if one.min(other) > enter {
                enter = one.min(other);
                let mut normal = DVec3::ZERO;
                normal[axis] = -way.signum();
                side = Some(normal);
            }
            leave = leave.min(one.max(other));
        }
        if enter > leave {
            return None;
        }
        let first = from + along * enter;
        if first.y <= self.surface(first) + TOUCH {
            return Some(match side {
                Some(normal) => Contact { distance: enter, normal, inside: false },
                None => Contact { distance: 0.0, normal: -along, inside: true },
            });
        }
        self.march(from, along, enter, leave)
    }

    /// Goes from cell to cell along a ray that starts above the surface. Source: J. Amanatides,
    /// A. Woo, "A fast voxel traversal algorithm for ray tracing", Eurographics 1987.
    fn march(&self, from: DVec3, along: DVec3, enter: f64, leave: f64) -> Option<Contact> {
        let (half_x, half_z) = self.half();
        let start = from + along * enter;
        let mut column = self.cell(start.x, half_x, self.columns);
        let mut row = self.cell(start.z, half_z, self.rows);
        // Where along the ray the next column or row begins.
        let border = |cell: usize, half: f64, origin: f64, way: f64| {
            if way == 0.0 {
                return f64::INFINITY;
            }
            let edge = if way > 0.0 { cell + 1 } else { cell };
            (edge as f64 * self.spacing - half - origin) / way
        };
        loop {
            let hits = self.triangles(column, row);
            let hits = hits.into_iter().filter_map(|triangle| meet_triangle(from, along, triangle));
            let above = hits.filter(|(distance, normal)| {
                *distance >= enter - TOUCH && *distance <= leave + TOUCH && normal.y > 0.0
            });
            if let Some((distance, normal)) = above.min_by(|one, other| one.0.total_cmp(&other.0)) {
                return Some(Contact { distance: distance.min(leave), normal, inside: false });
            }
            let next_x = border(column, half_x, from.x, along.x);
            let next_z = border(row, half_z, from.z, along.z);
            if next_x.min(next_z) > leave || next_x.min(next_z).is_nan() {
                return None;
            }
            let (cell, way, cells) = if next_x <= next_z {
                (&mut column, along.x, self.columns - 1)
            } else {
                (&mut row, along.z, self.rows - 1)
            };
            *cell = match cell.checked_add_signed(if way > 0.0 { 1 } else { -1 }) {
                Some(next) if next < cells => next,
                _ => return None,
            };
        }
    }

    pub fn distance_to(&self, point: DVec3) -> f64 {
        // No farther than the point of the surface, or of the edge, straight below or beside it.
        let block = self.bounds();
        let mut beside = point.clamp(block.min, block.max);
        beside.y = beside.y.min(self.surface(beside));
        let mut nearest = point.distance(beside);
        self.near(&Aabb::around(point, DVec3::splat(nearest)), |column| {
            nearest = nearest.min(distance_to_point(column, &Pose::IDENTITY, point));
        });
        nearest
    }
}
