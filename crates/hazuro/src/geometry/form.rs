//! Any shape, checked and ready for use: a convex one, several together, or ground.

use std::slice;
use std::sync::Arc;

use glam::DQuat;

use super::heights::Heights;
use super::mesh::Mesh;
use super::{Aabb, Contact, Convex, Pose, Ray, Shape, ShapeError, cast, distance_to_point};

/// A checked shape of any sort.
///
/// ```
/// use hazuro::geometry::{Form, Pose, Posed, Shape};
/// let ball = |x: f64| Posed::new(Shape::Sphere { radius: 0.5 }).at([x, 0.0, 0.0]);
/// let dumbbell = Form::new(&Shape::Any { shapes: vec![ball(-1.0), ball(1.0)] })?;
/// assert_eq!(dumbbell.bounds(&Pose::IDENTITY).max.x, 1.5);
/// # Ok::<(), hazuro::geometry::ShapeError>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Form(Sort);

#[derive(Clone, Debug, PartialEq)]
enum Sort {
    One(Convex),
    Any(Arc<[Piece]>),
    Ground(Arc<Ground>),
}

/// A convex part of a form, and where it is in it.
#[derive(Clone, Debug, PartialEq)]
struct Piece {
    pose: Pose,
    convex: Convex,
}

/// What only solids can be made of.
#[derive(Clone, Debug, PartialEq)]
enum Ground {
    Mesh(Mesh),
    Heights(Heights),
}

impl Form {
    /// Checks a shape and makes it ready for use.
    ///
    /// # Errors
    /// If a length or coordinate is not finite or out of range, or the shape is none: see
    /// [`ShapeError`].
    pub fn new(shape: &Shape) -> Result<Self, ShapeError> {
        Ok(Self(match shape {
            Shape::Any { shapes } if shapes.is_empty() => return Err(ShapeError::NoShapes),
            Shape::Any { .. } => {
                let mut pieces = Vec::new();
                collect(shape, Pose::IDENTITY, &mut pieces)?;
                Sort::Any(pieces.into())
            }
            Shape::Mesh { points, triangles } => {
                Sort::Ground(Arc::new(Ground::Mesh(Mesh::new(points, triangles)?)))
            }
            Shape::Heights { spacing, rows } => {
                Sort::Ground(Arc::new(Ground::Heights(Heights::new(*spacing, rows)?)))
            }
            convex => Sort::One(Convex::new(convex)?),
        }))
    }

    /// Several convex pieces together.
    pub(crate) fn of_pieces<'a>(pieces: impl Iterator<Item = (Pose, &'a Convex)>) -> Self {
        Self(Sort::Any(
            pieces.map(|(pose, convex)| Piece { pose, convex: convex.clone() }).collect(),
        ))
    }

    /// The same, larger by `margin` on all sides. Ground stays as it is.
    #[must_use]
    pub(crate) fn grown(&self, margin: f64) -> Self {
        Self(match &self.0 {
            Sort::One(convex) => Sort::One(convex.grown(margin)),
            Sort::Any(pieces) => {
                let grown = |piece: &Piece| Piece { convex: piece.convex.grown(margin), ..*piece };
                Sort::Any(pieces.iter().map(grown).collect())
            }
            Sort::Ground(_) => self.0.clone(),
        })
    }

    /// Its convex pieces and where they are in it; none if it is ground.
    pub fn pieces(&self) -> impl Iterator<Item = (Pose, &Convex)> + Clone {
        let (one, any) = match &self.0 {
            Sort::One(convex) => (Some(convex), [].iter()),
            Sort::Any(pieces) => (None, pieces.iter()),
            Sort::Ground(_) => (None, [].iter()),
        };
        let any: slice::Iter<'_, Piece> = any;
        let one = one.into_iter().map(|convex| (Pose::IDENTITY, convex));
        one.chain(any.map(|piece| (piece.pose, &piece.convex)))
    }

    /// Calls `visit` with its convex pieces that may meet `near`, both it and they in the frame
    /// that `pose` is given in: of ground, the triangles, or the columns below them.
    pub fn near(&self, pose: &Pose, near: &Aabb, mut visit: impl FnMut(&Convex, &Pose)) {
        match &self.0 {
            Sort::Ground(ground) => {
                let local = near.within(pose);
                let each = |convex: &Convex| visit(convex, pose);
                match &**ground {
                    Ground::Mesh(mesh) => mesh.near(&local, each),
                    Ground::Heights(heights) => heights.near(&local, each),
                }
            }
            _ => self.pieces().for_each(|(at, convex)| visit(convex, &(*pose * at))),
        }
    }

    /// Whether it is all of its bounds at a pose.
    pub(crate) fn fills_bounds(&self, pose: &Pose) -> bool {
        let is_box = matches!(&self.0, Sort::One(convex) if convex.is_box());
        is_box && pose.rotation == DQuat::IDENTITY
    }

    /// Whether it is a mesh or a field of heights, which only solids can be.
    pub fn is_ground(&self) -> bool {
        matches!(self.0, Sort::Ground(_))
    }

    /// Whether it has no end.
    pub fn is_endless(&self) -> bool {
        self.pieces().any(|(_, convex)| convex.is_endless())
    }

    /// The box along the axes that holds it.
    pub fn bounds(&self, pose: &Pose) -> Aabb {
        match &self.0 {
            Sort::One(convex) => convex.bounds(pose),
            Sort::Any(pieces) => pieces.iter().fold(Aabb::EMPTY, |all, piece| {
                all.join(&piece.convex.bounds(&(*pose * piece.pose)))
            }),
            Sort::Ground(ground) => {
                let local = match &**ground {
                    Ground::Mesh(mesh) => mesh.bounds(),
                    Ground::Heights(heights) => heights.bounds(),
                };
                local.placed(pose)
            }
        }
    }

    /// The farthest any of its points lies from its origin, in metres.
    pub fn reach(&self) -> f64 {
        match &self.0 {
            Sort::One(convex) => convex.reach(),
            Sort::Any(pieces) => {
                let reach = |piece: &Piece| piece.pose.position.length() + piece.convex.reach();
                pieces.iter().map(reach).fold(0.0, f64::max)
            }
            Sort::Ground(_) => {
                let Aabb { min, max } = self.bounds(&Pose::IDENTITY);
                min.abs().max(max.abs()).length()
            }
        }
    }

    /// How far below its origin it reaches, in metres; at least 0.
    pub fn below(&self) -> f64 {
        (-self.bounds(&Pose::IDENTITY).min.y).max(0.0)
    }

    /// Where a ray first meets it, if it does within its length. Touching counts.
    pub fn cast(&self, ray: &Ray, pose: &Pose) -> Option<Contact> {
        match &self.0 {
            Sort::One(convex) => cast(ray, convex, pose),
            Sort::Any(pieces) => {
                let hits = pieces
                    .iter()
                    .filter_map(|piece| cast(ray, &piece.convex, &(*pose * piece.pose)));
                hits.min_by(|one, other| one.distance.total_cmp(&other.distance))
            }
            Sort::Ground(ground) => {
                let unturn = pose.rotation.conjugate();
                let (from, along) =
                    (unturn * (ray.origin() - pose.position), unturn * ray.direction());
                let found = match &**ground {
                    Ground::Mesh(mesh) => mesh.cast(from, along, ray.length()),
                    Ground::Heights(heights) => heights.cast(from, along, ray.length()),
                };
                found.map(|contact| Contact { normal: pose.rotation * contact.normal, ..contact })
            }
        }
    }

    /// How far a point is from it: 0 inside.
    pub fn distance_to_point(&self, pose: &Pose, point: glam::DVec3) -> f64 {
        if let Sort::Ground(ground) = &self.0 {
            let local = pose.rotation.conjugate() * (point - pose.position);
            return match &**ground {
                Ground::Mesh(mesh) => mesh.distance_to(local),
                Ground::Heights(heights) => heights.distance_to(local),
            };
        }
        let gaps =
            self.pieces().map(|(at, convex)| distance_to_point(convex, &(*pose * at), point));
        gaps.fold(f64::INFINITY, f64::min)
    }
}

/// Adds the convex pieces of a shape.
fn collect(shape: &Shape, pose: Pose, pieces: &mut Vec<Piece>) -> Result<(), ShapeError> {
    let Shape::Any { shapes } = shape else {
        pieces.push(Piece { pose, convex: Convex::new(shape)? });
        return Ok(());
    };
    if shapes.is_empty() {
        return Err(ShapeError::NoShapes);
    }
    for posed in shapes {
        for value in posed.pose.position.to_array() {
            super::convex::coordinate("a place", value)?;
        }
        collect(&posed.shape, pose * posed.pose, pieces)?;
    }
    Ok(())
}

impl From<Convex> for Form {
    fn from(convex: Convex) -> Self {
        Self(Sort::One(convex))
    }
}
