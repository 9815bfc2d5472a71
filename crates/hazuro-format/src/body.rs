//! The tables that are a shape: zones, solids and bodies.

use hazuro::geometry::Shape;
use hazuro::scene::{Body, Field, Legs, Part, Zone};
use serde::Serialize;

use crate::code::Code;
use crate::keys::shape::{pose_keys, posed, shaped};
use crate::read::Reader;
use crate::table::{Degrees, Notation, Table};

shaped! {
    /// A shape that detects and blocks nothing.
    #[derive(Default, Serialize)]
    ZoneKeys {
        /// Report `inside` again each time this many seconds of a stay have passed.
        #[serde(skip_serializing_if = "Option::is_none")]
        inside_every: Option<f64>,
    }
}

shaped! {
    /// A shape that blocks bodies and stops rays.
    #[derive(Default, Serialize)]
    SolidKeys {}
}

shaped! {
    /// What makes an entity move by itself and be detected: one shape, or named parts.
    #[derive(Default, Serialize)]
    BodyKeys {
        /// Several named shapes instead of one.
        #[serde(skip_serializing_if = "Option::is_none")]
        parts: Option<Vec<PartKeys>>,
        /// A walker's speed in metres per second; without it the body is driven.
        #[serde(skip_serializing_if = "Option::is_none")]
        walk: Option<f64>,
        /// How high a walker jumps, in metres. The default is 0: it cannot jump.
        #[serde(skip_serializing_if = "Option::is_none")]
        jump: Option<f64>,
        /// The highest step a walker takes up or down, in metres. The default is 0.3.
        #[serde(skip_serializing_if = "Option::is_none")]
        step: Option<f64>,
        /// The steepest slope a walker walks on, in degrees. The default is 50.
        #[serde(skip_serializing_if = "Option::is_none")]
        slope: Option<f64>,
        /// Whether it blocks walkers and what falls. The default is no, but
        /// for what can be carried.
        #[serde(skip_serializing_if = "Option::is_none")]
        blocks: Option<bool>,
    }
}

posed! {
    /// A named shape of a body.
    PartKeys {
        /// Its name; needed.
        #[serde(skip_serializing_if = "Option::is_none")]
        name: Option<String>,
    }
}

impl Table for Zone {
    type Keys = ZoneKeys;

    fn keys(&self) -> ZoneKeys {
        let inside_every = self.inside_interval();
        ZoneKeys { inside_every, ..ZoneKeys::default() }.shaped(self.shape())
    }

    fn read(keys: &ZoneKeys, reader: &mut Reader<'_>, field: &Field) -> Option<Self> {
        let zone = Self::new(reader.shape(keys.given(), field)?);
        Some(match keys.inside_every {
            Some(seconds) => zone.inside_every(seconds),
            None => zone,
        })
    }
}

/// A shape by itself is what is solid.
impl Table for Shape {
    type Keys = SolidKeys;

    fn keys(&self) -> SolidKeys {
        SolidKeys::default().shaped(self)
    }

    fn read(keys: &SolidKeys, reader: &mut Reader<'_>, field: &Field) -> Option<Self> {
        reader.shape(keys.given(), field)
    }
}

impl Table for Body {
    type Keys = BodyKeys;

    fn keys(&self) -> BodyKeys {
        let (legs, usual) = (self.walking_legs(), Legs::default());
        let other = |own: f64, usual: f64| (own.to_bits() != usual.to_bits()).then_some(own);
        let keys = BodyKeys {
            walk: self.walking_speed(),
            jump: other(legs.jump, usual.jump),
            step: other(legs.step, usual.step),
            slope: other(legs.slope, usual.slope).map(|it| Degrees::write(&it)),
            blocks: self.is_blocking().then_some(true),
            ..BodyKeys::default()
        };
        match self.shape() {
            Some(shape) => keys.shaped(shape),
            None => {
                BodyKeys { parts: Some(self.parts().iter().map(Table::keys).collect()), ..keys }
            }
        }
    }

    fn read(keys: &BodyKeys, reader: &mut Reader<'_>, field: &Field) -> Option<Self> {
        let body = match &keys.parts {
            Some(parts) => {
                let field = field.key("parts");
                if keys.given().is_any() {
                    let message = "a body has either one shape or parts";
                    reader.error(&field, Code::OneShape, message, "make the shape a part too");
                }
                let parts = parts.iter().enumerate();
                Self::of_parts(
                    parts.filter_map(|(index, part)| Part::read(part, reader, &field.item(index))),
                )
            }
            None => Self::new(reader.shape(keys.given(), field)?),
        };
        if keys.walk.is_none() {
            let legs = [("jump", keys.jump), ("step", keys.step), ("slope", keys.slope)];
            for (key, _) in legs.into_iter().filter(|(_, value)| value.is_some()) {
                let message = format!("`{key}` is for a body that walks");
                let help = "add walk = speed, in metres a second";
                reader.error(&field.key(key), Code::NoPartner, &message, help);
            }
        }
        let usual = Legs::default();
        let legs = Legs {
            jump: keys.jump.unwrap_or(usual.jump),
            step: keys.step.unwrap_or(usual.step),
            slope: keys.slope.map_or(usual.slope, f64::to_radians),
        };
        let body = body.legs(legs).blocks(keys.blocks.unwrap_or(false));
        Some(match keys.walk {
            Some(speed) => body.walk(speed),
            None => body,
        })
    }
}

impl Table for Part {
    type Keys = PartKeys;

    fn keys(&self) -> PartKeys {
        let (at, turn, rotation) = pose_keys(&self.pose());
        let name = Some(self.name().to_owned());
        PartKeys { name, at, turn, rotation, ..PartKeys::default() }.shaped(self.shape())
    }

    fn read(keys: &PartKeys, reader: &mut Reader<'_>, field: &Field) -> Option<Self> {
        let Some(name) = &keys.name else {
            let help = "add `name = ...`";
            reader.error(field, Code::MissingKey, "the key `name` is missing here", help);
            return None;
        };
        let shape = reader.shape(keys.given(), field)?;
        let pose = reader.pose(keys.pose(), field);
        Some(Self::new(name, shape).at(pose))
    }
}
