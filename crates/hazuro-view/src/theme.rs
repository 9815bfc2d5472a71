//! One palette, one set of marks and one legend for pictures, pages and the terminal.
//!
//! Nothing is told by colour alone: each mark has a line, a fill or a sign of its own.

/// A colour, as red, green and blue.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Colour(pub u8, pub u8, pub u8);

impl Colour {
    /// As CSS and SVG write it: `#0b6e75`.
    pub fn hex(self) -> String {
        let Self(red, green, blue) = self;
        format!("#{red:02x}{green:02x}{blue:02x}")
    }

    /// How much light it gives, from 0 to 1: the relative luminance of WCAG 2.2.
    pub fn luminance(self) -> f64 {
        let part = |value: u8| {
            let value = f64::from(value) / 255.0;
            if value <= 0.04045 { value / 12.92 } else { ((value + 0.055) / 1.055).powf(2.4) }
        };
        0.2126 * part(self.0) + 0.7152 * part(self.1) + 0.0722 * part(self.2)
    }

    /// The contrast with another colour, from 1 to 21, as WCAG 2.2 reckons it.
    pub fn contrast(self, other: Self) -> f64 {
        let (one, two) = (self.luminance(), other.luminance());
        (one.max(two) + 0.05) / (one.min(two) + 0.05)
    }
}

/// The colours of a drawing on light or on dark ground.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Palette {
    /// What is drawn upon.
    pub paper: Colour,
    /// Text and rulers.
    pub ink: Colour,
    /// Text of less weight, and lines of grids.
    pub faint: Colour,
    /// Ground and solids.
    pub stone: Colour,
    /// What detects, while it detects nobody.
    pub calm: Colour,
    /// What detects somebody.
    pub busy: Colour,
    /// What has just fired, and events.
    pub alarm: Colour,
    /// Players.
    pub player: Colour,
    /// Other bodies.
    pub body: Colour,
    /// What is looked at or pointed to: sight, rays, targets.
    pub gaze: Colour,
}

/// On light ground.
pub const LIGHT: Palette = Palette {
    paper: Colour(0xfc, 0xfa, 0xf5),
    ink: Colour(0x1d, 0x2a, 0x33),
    faint: Colour(0x5f, 0x6b, 0x73),
    stone: Colour(0x8a, 0x80, 0x70),
    calm: Colour(0x1f, 0x6f, 0x8b),
    busy: Colour(0x9a, 0x55, 0x00),
    alarm: Colour(0xb0, 0x1e, 0x3c),
    player: Colour(0x14, 0x3d, 0x8c),
    body: Colour(0x4d, 0x4a, 0x45),
    gaze: Colour(0x6d, 0x3f, 0x99),
};

/// On dark ground.
pub const DARK: Palette = Palette {
    paper: Colour(0x12, 0x18, 0x1d),
    ink: Colour(0xec, 0xe8, 0xdf),
    faint: Colour(0x98, 0xa4, 0xac),
    stone: Colour(0x85, 0x7c, 0x6d),
    calm: Colour(0x5c, 0xb8, 0xd6),
    busy: Colour(0xf0, 0xa8, 0x3c),
    alarm: Colour(0xff, 0x7d, 0x8f),
    player: Colour(0x8f, 0xb7, 0xff),
    body: Colour(0xc9, 0xc3, 0xb8),
    gaze: Colour(0xc3, 0x9b, 0xee),
};

impl Palette {
    /// The colour of a mark.
    pub fn of(&self, mark: Mark) -> Colour {
        match mark {
            Mark::Ground | Mark::Solid => self.stone,
            Mark::Idle => self.calm,
            Mark::Occupied | Mark::Offer | Mark::Highlight => self.busy,
            Mark::Fired | Mark::Event | Mark::Refused => self.alarm,
            Mark::Off | Mark::Marker | Mark::Route | Mark::Cooldown => self.faint,
            Mark::Player | Mark::Path => self.player,
            Mark::Body | Mark::Said => self.body,
            Mark::Sight | Mark::Ray | Mark::Hit | Mark::Target | Mark::Effect => self.gaze,
        }
    }
}

/// A sort of thing in a drawing.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Mark {
    /// Ground to stand on.
    Ground,
    /// Something solid.
    Solid,
    /// A zone with nobody inside.
    Idle,
    /// A zone with somebody inside; a detector that detects somebody.
    Occupied,
    /// A detector that has fired within the last half second.
    Fired,
    /// A detector that is off, by itself or by an ancestor.
    Off,
    /// A player's body, and where it faces.
    Player,
    /// Another body, and where it faces.
    Body,
    /// A field of view.
    Sight,
    /// The ray of a probe.
    Ray,
    /// Where a ray hits.
    Hit,
    /// From a seeker to its target.
    Target,
    /// How near one must be to use something; with key and caption while it is offered.
    Offer,
    /// What a user interface highlights for somebody to whom something is offered.
    Highlight,
    /// The stops of a route.
    Route,
    /// An entity that is only a place.
    Marker,
    /// A path that was walked.
    Path,
    /// Where something happened, numbered.
    Event,
    /// While an effect lasts.
    Effect,
    /// While a detector is cooling down.
    Cooldown,
    /// A text that was said.
    Said,
    /// Something that was tried and refused.
    Refused,
}

impl Mark {
    /// All of them, in the order of the legend.
    pub const ALL: [Self; 22] = [
        Self::Ground,
        Self::Solid,
        Self::Idle,
        Self::Occupied,
        Self::Fired,
        Self::Off,
        Self::Player,
        Self::Body,
        Self::Sight,
        Self::Ray,
        Self::Hit,
        Self::Target,
        Self::Offer,
        Self::Highlight,
        Self::Route,
        Self::Marker,
        Self::Path,
        Self::Event,
        Self::Effect,
        Self::Cooldown,
        Self::Said,
        Self::Refused,
    ];

    /// A short name, as class names in SVG and HTML have it.
    pub fn code(self) -> &'static str {
        self.told().0
    }

    /// What the legend says.
    pub fn words(self) -> &'static str {
        self.told().1
    }

    /// Its sign in a terminal and beside text.
    pub fn sign(self) -> char {
        self.told().2
    }

    /// The dashes of its line, if it has any: pixels drawn and pixels left out.
    pub fn dashes(self) -> Option<&'static str> {
        match self {
            Self::Idle => Some("5 3"),
            Self::Off => Some("1 3"),
            Self::Offer => Some("2 3"),
            Self::Highlight => Some("6 2"),
            Self::Route => Some("8 3 2 3"),
            Self::Ray => Some("9 2"),
            Self::Sight => Some("3 2"),
            _ => None,
        }
    }

    /// How wide its line is, in pixels.
    pub fn width(self) -> f64 {
        match self {
            Self::Ground => 0.4,
            Self::Occupied | Self::Player => 2.0,
            Self::Fired | Self::Path => 2.6,
            Self::Highlight => 3.0,
            Self::Body | Self::Idle => 1.4,
            _ => 1.0,
        }
    }

    fn told(self) -> (&'static str, &'static str, char) {
        match self {
            Self::Ground => ("ground", "ground", '░'),
            Self::Solid => ("solid", "solid", '▓'),
            Self::Idle => ("idle", "zone or detector, nobody there", '○'),
            Self::Occupied => ("occupied", "detects somebody", '●'),
            Self::Fired => ("fired", "has just fired", '◆'),
            Self::Off => ("off", "switched off", '×'),
            Self::Player => ("player", "player, facing", '▲'),
            Self::Body => ("body", "other body, facing", '△'),
            Self::Sight => ("sight", "field of view", '◔'),
            Self::Ray => ("ray", "ray of a probe", '─'),
            Self::Hit => ("hit", "where it hits", '◎'),
            Self::Target => ("target", "seeker and its target", '→'),
            Self::Offer => ("offer", "reach of a prompt, and its key", '◇'),
            Self::Highlight => ("highlight", "highlighted for somebody", '✦'),
            Self::Route => ("route", "route", '╌'),
            Self::Marker => ("marker", "place", '+'),
            Self::Path => ("path", "way that was gone", '●'),
            Self::Event => ("event", "event, by number", '■'),
            Self::Effect => ("effect", "effect", '▬'),
            Self::Cooldown => ("cooldown", "cooling down", '▭'),
            Self::Said => ("said", "text said", '▸'),
            Self::Refused => ("refused", "refused, or went wrong", '▼'),
        }
    }
}
