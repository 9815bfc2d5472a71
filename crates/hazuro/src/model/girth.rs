//! What room a body takes up, however it is turned.

use glam::{DQuat, DVec3};

use crate::geometry::{Aabb, Convex, Pose};

use super::thing::{BodySpec, PlacedPart};

impl BodySpec {
    /// Its convex pieces and where they are, from its origin.
    pub fn pieces(&self) -> impl Iterator<Item = (Pose, &Convex)> {
        self.parts.iter().flat_map(PlacedPart::pieces)
    }

    /// How far it reaches from its origin, in metres.
    pub fn reach(&self) -> f64 {
        let parts = self.parts.iter().map(|part| part.pose.position.length() + part.form.reach());
        parts.fold(0.0, f64::max)
    }

    /// The bounds of all its parts at a pose.
    pub fn bounds_at(&self, pose: &Pose) -> Aabb {
        let parts = self.parts.iter().map(|part| part.form.bounds(&(*pose * part.pose)));
        parts.fold(Aabb::EMPTY, |all, part| all.join(&part))
    }

    /// The bounds of all its parts, its origin being that of the world and itself upright, however it is
    /// turned about Y.
    pub fn bounds_upright(&self) -> Aabb {
        let mut bounds = Aabb::EMPTY;
        for (at, piece) in self.pieces() {
            let own = piece.bounds(&Pose { position: DVec3::ZERO, ..at });
            let wide = own.max.max(-own.min);
            let is_upright = piece.is_round() && at.rotation == DQuat::IDENTITY;
            let aside = if is_upright { wide.x } else { wide.x.hypot(wide.z) };
            let aside = aside + at.position.x.hypot(at.position.z);
            let [low, high] = [own.min.y, own.max.y].map(|y| y + at.position.y);
            let min = DVec3::new(-aside, low, -aside);
            bounds = bounds.join(&Aabb { min, max: DVec3::new(aside, high, aside) });
        }
        bounds
    }

    /// Boxes that hold each of its convex pieces at a pose, if they are grown by a radius at their corners,
    /// too.
    pub fn rounded_bounds(&self, pose: &Pose) -> impl Iterator<Item = (Aabb, f64)> {
        self.pieces().map(|(at, piece)| piece.rounded_bounds(&(*pose * at)))
    }

    /// Balls that it holds: where their middles are, from its origin, and their radii.
    pub fn inner_balls(&self) -> impl Iterator<Item = (DVec3, f64)> {
        self.pieces().map(|(at, piece)| (at.position, piece.inner_radius()))
    }

    /// Whether turning about Y makes no difference to it while it is upright.
    pub fn is_round(&self) -> bool {
        self.pieces().all(|(at, piece)| {
            (at.position.x, at.position.z) == (0.0, 0.0)
                && at.rotation == DQuat::IDENTITY
                && piece.is_round()
        })
    }

    /// Whether no turn makes any difference to it.
    pub fn is_ball(&self) -> bool {
        self.pieces().all(|(at, piece)| at.position == DVec3::ZERO && piece.is_ball())
    }

    /// How far a turn from one rotation to another, the shorter way, carries its surface at most, in
    /// metres. What the turn does not change counts nothing.
    pub fn carried_by_turn(&self, from: DQuat, to: DQuat) -> f64 {
        let turn = from.conjugate() * to;
        let sine = turn.xyz().length();
        if sine == 0.0 {
            return 0.0;
        }
        let (axis, angle) = (turn.xyz() / sine, 2.0 * sine.atan2(turn.w.abs()));
        let reach = self.pieces().map(|(at, piece)| {
            let own = at.rotation.conjugate() * axis;
            axis.cross(at.position).length() + piece.reach_across(own)
        });
        angle * reach.fold(0.0, f64::max)
    }
}
