//! From the description of a detector back to its keys.

use hazuro::scene::{
    Among, Camera, Drag, Footing, Lens, Needs, Pointer, Probe, Prompt, Seeker, Sight, Touch,
};

use crate::keys::detector::{
    CameraKeys, DragKeys, FootingKeys, NeedsKeys, PointerKeys, ProbeKeys, PromptKeys, SeekerKeys,
    SightKeys, TouchKeys,
};

/// What differs from a default.
fn unless<T: PartialEq + Clone>(value: &T, default: &T) -> Option<T> {
    (value != default).then(|| value.clone())
}

/// Degrees that give back the same radians, as far as there are any.
fn degrees(radians: f64, default: f64) -> Option<f64> {
    let exact = radians.to_degrees();
    let round = (exact * 1e6).round() / 1e6;
    let near = [round, exact, exact.next_up(), exact.next_down()];
    let found = near.into_iter().find(|degrees| degrees.to_radians() == radians);
    (radians != default).then_some(found.unwrap_or(exact))
}

fn among(among: Among, default: Among) -> Option<Vec<String>> {
    let Among { solids, bodies, zones } = among;
    let all = [("solids", solids), ("bodies", bodies), ("zones", zones)];
    let named = all.into_iter().filter(|(_, there)| *there).map(|(word, _)| word.to_owned());
    (among != default).then(|| named.collect())
}

pub(crate) fn touch(told: &Touch) -> TouchKeys {
    let usual = Touch::default();
    TouchKeys {
        parts: unless(&told.parts, &usual.parts),
        solids: unless(&told.solids, &usual.solids),
        at_least: unless(&told.at_least, &usual.at_least),
        margin: unless(&told.margin, &usual.margin),
        ..told.shape.as_ref().map_or_else(TouchKeys::default, TouchKeys::shaped)
    }
}

pub(crate) fn probe(told: &Probe) -> ProbeKeys {
    let usual = Probe::default();
    ProbeKeys {
        from: unless(&told.from, &usual.from),
        to: unless(&told.to, &usual.to),
        every: told.every,
        of: among(told.among, usual.among),
        layers: unless(&told.layers, &usual.layers),
        own: unless(&told.own, &usual.own),
        ..told.shape.as_ref().map_or_else(ProbeKeys::default, ProbeKeys::shaped)
    }
}

pub(crate) fn footing(told: &Footing) -> FootingKeys {
    let usual = Footing::default();
    FootingKeys {
        margin: unless(&told.margin, &usual.margin),
        grace: unless(&told.grace, &usual.grace),
        slope: degrees(told.slope, usual.slope),
        reach: unless(&told.reach, &usual.reach),
        layers: unless(&told.layers, &usual.layers),
    }
}

pub(crate) fn sight(told: &Sight) -> SightKeys {
    let usual = Sight::default();
    SightKeys {
        range: unless(&told.range, &usual.range),
        angle: degrees(told.angle, usual.angle),
        rise: degrees(told.rise, usual.rise),
        eye: told.eye,
        near: unless(&told.near, &usual.near),
        hides: unless(&told.hides, &usual.hides),
        points: unless(&told.points, &usual.points),
        fraction: unless(&told.fraction, &usual.fraction),
        notice: unless(&told.notice, &usual.notice),
        forget: unless(&told.forget, &usual.forget),
        every: unless(&told.every, &usual.every),
    }
}

pub(crate) fn seeker(told: &Seeker) -> SeekerKeys {
    let usual = Seeker::default();
    SeekerKeys {
        range: unless(&told.range, &usual.range),
        margin: unless(&told.margin, &usual.margin),
        of: among(told.among, usual.among),
        sight: unless(&told.sight, &usual.sight),
        hides: unless(&told.hides, &usual.hides),
        score: told.score.as_ref().map(|score| score.text().into()),
        every: unless(&told.every, &usual.every),
    }
}

pub(crate) fn prompt(told: &Prompt) -> PromptKeys {
    let usual = Prompt::default();
    let Needs { counts, own_counts, stats, tags } = &told.needs;
    let needs = NeedsKeys {
        counts: unless(counts, &usual.needs.counts),
        own_counts: unless(own_counts, &usual.needs.own_counts),
        stats: unless(stats, &usual.needs.stats),
        tags: unless(tags, &usual.needs.tags),
    };
    PromptKeys {
        reach: unless(&told.reach, &usual.reach),
        margin: unless(&told.margin, &usual.margin),
        key: unless(&told.key, &usual.key),
        caption: unless(&told.caption, &usual.caption),
        detail: unless(&told.detail, &usual.detail),
        hold: unless(&told.hold, &usual.hold),
        sight: unless(&told.sight, &usual.sight),
        angle: degrees(told.angle, usual.angle),
        priority: unless(&told.priority, &usual.priority),
        several: unless(&told.several, &usual.several),
        needs: (told.needs != usual.needs).then_some(needs),
    }
}

pub(crate) fn pointer(told: &Pointer) -> PointerKeys {
    let usual = Pointer::default();
    let drag = told.drag.clone().map(|drag| match drag {
        Drag::Plane(plane) => DragKeys { plane: Some(plane), ..DragKeys::default() },
        Drag::Axis(axis) => DragKeys { axis: Some(axis), ..DragKeys::default() },
        Drag::Surface(name) => DragKeys { surface: Some(name), ..DragKeys::default() },
    });
    PointerKeys {
        reach: unless(&told.reach, &usual.reach),
        children: unless(&told.children, &usual.children),
        drag,
    }
}

pub(crate) fn camera(told: &Camera) -> CameraKeys {
    let usual = Camera::default();
    let (fov, orthographic) = match told.lens {
        lens if lens == usual.lens => (None, None),
        Lens::Perspective { angle } => (degrees(angle, f64::NAN), None),
        Lens::Orthographic { height } => (None, Some(height)),
    };
    let viewport = unless(&told.viewport, &usual.viewport);
    let layers = unless(&told.layers, &usual.layers);
    CameraKeys { look_at: told.look_at.clone(), fov, orthographic, viewport, layers }
}
