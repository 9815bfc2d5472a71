//! From the keys of a detector to its description.

use hazuro::scene::{
    Among, Camera, Drag, Field, Footing, Lens, Limits, Needs, Pointer, Probe, Prompt, Seeker,
    Sight, Touch, nearest,
};

use crate::keys::detector::{
    CameraKeys, FootingKeys, PointerKeys, ProbeKeys, PromptKeys, SeekerKeys, SightKeys, TouchKeys,
};
use crate::read::reader::Reader;

/// Puts in place of a default what is given.
macro_rules! given {
    ($told:ident, $keys:ident: $($field:ident),*) => {
        $(if let Some(value) = &$keys.$field {
            $told.$field = value.clone();
        })*
    };
}

/// As [`given`], from degrees to radians.
macro_rules! degrees {
    ($told:ident, $keys:ident: $($field:ident),*) => {
        $(if let Some(degrees) = $keys.$field {
            $told.$field = degrees.to_radians();
        })*
    };
}

impl Reader<'_> {
    pub(crate) fn touch(&mut self, keys: &TouchKeys, field: &Field) -> Option<Touch> {
        let mut told = Touch::default();
        given!(told, keys: parts, solids, at_least, margin);
        if keys.given().is_any() {
            told.shape = Some(self.shape(keys.given(), field)?);
        }
        Some(told)
    }

    pub(crate) fn probe(&mut self, keys: &ProbeKeys, field: &Field) -> Option<Probe> {
        let mut told = Probe { every: keys.every, ..Probe::default() };
        given!(told, keys: from, to, layers, own);
        if let Some(of) = &keys.of {
            told.among = self.among(of, &field.key("of"))?;
        }
        if keys.given().is_any() {
            told.shape = Some(self.shape(keys.given(), field)?);
        }
        Some(told)
    }

    pub(crate) fn seeker(&mut self, keys: &SeekerKeys, field: &Field) -> Option<Seeker> {
        let mut told = Seeker::default();
        given!(told, keys: range, margin, sight, hides, every);
        if let Some(of) = &keys.of {
            told.among = self.among(of, &field.key("of"))?;
        }
        told.score = self.score(keys.score.as_ref(), &field.key("score"));
        Some(told)
    }

    pub(crate) fn pointer(&mut self, keys: &PointerKeys, field: &Field) -> Option<Pointer> {
        let mut told = Pointer::default();
        given!(told, keys: reach, children);
        if let Some(drag) = &keys.drag {
            let given = [
                drag.plane.map(Drag::Plane),
                drag.axis.map(Drag::Axis),
                drag.surface.clone().map(Drag::Surface),
            ];
            let given: Vec<Drag> = given.into_iter().flatten().collect();
            let [one] = given.as_slice() else {
                let help = "give one of: plane = [0, 1, 0], axis = [1, 0, 0], surface = \"name\"";
                let message = "something is dragged along one thing";
                self.error(&field.key("drag"), "one-drag", message, help);
                return None;
            };
            told.drag = Some(one.clone());
        }
        Some(told)
    }

    pub(crate) fn camera(&mut self, keys: &CameraKeys, field: &Field) -> Option<Camera> {
        let mut told = Camera { look_at: keys.look_at.clone(), ..Camera::default() };
        given!(told, keys: viewport, layers);
        match (keys.fov, keys.orthographic) {
            (Some(_), Some(_)) => {
                let message = "`fov` and `orthographic` are two sorts of camera";
                self.error(&field.key("fov"), "two-lenses", message, "keep one of them");
                return None;
            }
            (Some(degrees), None) => {
                told.lens = Lens::Perspective { angle: degrees.to_radians() };
            }
            (None, Some(height)) => told.lens = Lens::Orthographic { height },
            (None, None) => {}
        }
        Some(told)
    }

    fn among(&mut self, of: &[String], field: &Field) -> Option<Among> {
        const KNOWN: [&str; 3] = ["solids", "bodies", "zones"];
        let mut among = Among::default();
        for (index, word) in of.iter().enumerate() {
            match word.as_str() {
                "solids" => among.solids = true,
                "bodies" => among.bodies = true,
                "zones" => among.zones = true,
                other => {
                    let help = match nearest(other, KNOWN) {
                        Some(nearest) => format!("did you mean `{nearest}`?"),
                        None => "give some of: solids, bodies, zones".into(),
                    };
                    let message = format!("there is no `{other}` to look for");
                    self.error(&field.item(index), "unknown-name", &message, &help);
                    return None;
                }
            }
        }
        Some(among)
    }

    /// How often detectors may act, if anything is said of it.
    pub(crate) fn limits(
        &mut self,
        (cooldown, shared): (Option<f64>, Option<bool>),
        (once, limit): (Option<bool>, Option<u64>),
        field: &Field,
    ) -> Option<Limits> {
        if once == Some(true) && limit.is_some() {
            let message = "`once` and `limit` both say how often";
            self.error(&field.key("limit"), "two-counts", message, "keep one of them");
        }
        if shared.is_some() && cooldown.is_none() {
            let help = "add `cooldown = seconds`";
            let message = "`cooldown_shared` goes with `cooldown`";
            self.error(&field.key("cooldown_shared"), "no-partner", message, help);
        }
        let limit = if once == Some(true) { Some(1) } else { limit };
        let limits = Limits {
            cooldown: cooldown.unwrap_or_default(),
            shared: shared.unwrap_or_default(),
            limit,
        };
        (limits != Limits::default()).then_some(limits)
    }
}

pub(crate) fn footing(keys: &FootingKeys) -> Footing {
    let mut told = Footing::default();
    given!(told, keys: margin, grace, reach, layers);
    degrees!(told, keys: slope);
    told
}

pub(crate) fn sight(keys: &SightKeys) -> Sight {
    let mut told = Sight { eye: keys.eye, ..Sight::default() };
    given!(told, keys: range, near, hides, points, fraction, notice, forget, every);
    degrees!(told, keys: angle, rise);
    told
}

pub(crate) fn prompt(keys: &PromptKeys) -> Prompt {
    let mut told = Prompt::default();
    given!(told, keys: reach, margin, key, caption, detail, hold, sight, priority, several);
    degrees!(told, keys: angle);
    if let Some(needs) = &keys.needs {
        let mut had = Needs::default();
        given!(had, needs: counts, own_counts, stats, tags);
        told.needs = had;
    }
    told
}

pub(crate) fn interact(keys: &PromptKeys) -> Prompt {
    Prompt { quiet: true, ..prompt(keys) }
}
