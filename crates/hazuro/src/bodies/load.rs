//! A body with what it holds: that is stopped by what is solid, too, and so stops its holder.

use std::borrow::Cow;

use crate::describe::EntityId;
use crate::geometry::{Convex, Form, Pose};
use crate::model::Mover;
use crate::space::Space;

/// What moves with a body by itself: its own pieces, then those of what it holds, from its origin.
pub(super) fn mover_of(space: Space<'_>, who: EntityId) -> Option<Cow<'_, Mover>> {
    let (scene, state) = (space.scene, space.state);
    let own = scene.mover(who)?;
    let mut held = state.held_by(who).peekable();
    if held.peek().is_none() {
        return Some(Cow::Borrowed(own));
    }
    let mut pieces: Vec<(Pose, Convex)> = own.pieces.to_vec();
    for what in held {
        let at = state.local_pose(what, state.now);
        if let Some(mover) = scene.mover(what) {
            pieces.extend(mover.pieces.iter().map(|(pose, piece)| (at * *pose, piece.clone())));
        }
    }
    let form = Form::of_pieces(pieces.iter().map(|(pose, piece)| (*pose, piece)));
    Some(Cow::Owned(Mover { pieces: pieces.into(), form, round: false, ..own.clone() }))
}
