//! From the keys of shapes and poses to shapes and poses.

use hazuro::geometry::{Pose, Posed, Shape};
use hazuro::glam::DQuat;
use hazuro::scene::Field;

use crate::code::Code;
use crate::keys::shape::{Given, PoseKeys};
use crate::read::reader::Reader;

impl Reader<'_> {
    pub(crate) fn shape(&mut self, given: Given<'_>, field: &Field) -> Option<Shape> {
        let mut shapes: Vec<Shape> = given.simple().collect();
        if let Some(any) = given.any {
            let posed = any.iter().enumerate().map(|(index, keys)| {
                let field = field.key("any").item(index);
                let pose = self.pose(keys.pose(), &field);
                let shape = self.shape(keys.given(), &field)?;
                Some(Posed { shape, pose })
            });
            // All are read, so that each mistake is found.
            let posed: Vec<Option<Posed>> = posed.collect();
            shapes.push(Shape::Any { shapes: posed.into_iter().collect::<Option<_>>()? });
        }
        if shapes.len() == 1 {
            return shapes.pop();
        }
        let message =
            if shapes.is_empty() { "a shape is missing here" } else { "one shape too many" };
        let help = "give one of: box = [x, y, z], sphere = { radius = r }, capsule, cylinder or \
                    cone = { radius = r, height = h }, hull = [[x, y, z], ...], half_space = true, \
                    heights = { spacing = s, rows = [...] }, mesh = { points = [...], triangles = \
                    [...] }, any = [{ box = ..., at = [x, y, z] }, ...]";
        self.error(field, Code::OneShape, message, help);
        None
    }

    /// As [`pose`](Self::pose); none if no key of it is there.
    pub(crate) fn pose_if(&mut self, keys: PoseKeys, field: &Field) -> Option<Pose> {
        let (at, turn, rotation) = &keys;
        let given = at.is_some() || turn.is_some() || rotation.is_some();
        given.then(|| self.pose(keys, field))
    }

    pub(crate) fn pose(&mut self, (at, turn, rotation): PoseKeys, field: &Field) -> Pose {
        let pose = Pose::from(at.unwrap_or_default());
        match (turn, rotation) {
            (Some(_), Some(_)) => {
                let message = "`turn` and `rotation` both say how it is turned";
                self.error(&field.key("rotation"), Code::TwoRotations, message, "keep one of them");
                pose
            }
            (Some(degrees), None) => {
                if !degrees.is_finite() {
                    let help = "give degrees about Y, counter-clockwise from above";
                    self.error(&field.key("turn"), Code::BadNumber, "this is no angle", help);
                    return pose;
                }
                pose.turned(degrees.to_radians())
            }
            (None, Some(numbers)) => {
                let rotation = DQuat::from_array(numbers);
                // What is a unit quaternion up to the digits written is meant to be one.
                let length = rotation.length();
                let rotation = if (length - 1.0).abs() < 1e-3 && (length - 1.0).abs() > 1e-12 {
                    rotation.normalize()
                } else {
                    rotation
                };
                Pose { rotation, ..pose }
            }
            (None, None) => pose,
        }
    }
}
