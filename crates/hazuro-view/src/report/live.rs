//! The map that moves with the slider: each thing as it was when it first came into the play.

use std::collections::{BTreeMap, BTreeSet};

use hazuro::{EntityId, Play, Time};

use crate::figures::{Firings, figures_with};
use crate::picture::Picture;
use crate::recording::Recording;

/// The map, with each figure in a group of its own that says whose it is and when it was drawn; and
/// how many pixels a metre has, and where the origin is.
pub(super) fn map(
    picture: &Picture<'_>,
    mut play: Play,
    recording: &Recording,
) -> (String, (f64, [f64; 2])) {
    // Who is there from the start, and who appears later, by when.
    let mut appear: BTreeMap<Time, Vec<EntityId>> = BTreeMap::new();
    for id in play.scene().ids() {
        let switches = recording.switches.get(&id).map_or(&[][..], Vec::as_slice);
        let first = match switches.first() {
            Some((Time::ZERO, first)) if !first.there => {
                switches.iter().find(|(_, switches)| switches.there).map(|it| it.0)
            }
            _ => Some(Time::ZERO),
        };
        if let Some(first) = first {
            appear.entry(first).or_default().push(id);
        }
    }
    // What is ever highlighted; the page shows it while it is.
    let ever: BTreeSet<EntityId> = recording.highlights().into_keys().collect();
    let mut drawing = picture.live();
    let firings = Firings::default();
    for (time, ids) in appear {
        play.advance(time);
        let all = figures_with(&play, &firings, ever.clone());
        let wanted: Vec<_> = all.into_iter().filter(|it| ids.contains(&it.entity)).collect();
        drawing.add(&wanted, time);
    }
    drawing.finish()
}
