//! What can be detected, and by which sort of detector.

use std::fmt;
use std::hash::Hash;

/// A sort of detector. An entity has at most one of each.
///
/// ```
/// use hazuro::scene::{Detector, EventKind};
/// assert_eq!(Detector::Touch.opens(), Some(EventKind::Touch));
/// assert_eq!(EventKind::Untouch.detector(), Some(Detector::Touch));
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum Detector {
    /// Who is inside a shape.
    Zone,
    /// Who touches it.
    Touch,
    /// Which pointer is on it.
    Pointer,
    /// Who may use it.
    Prompt,
    /// What a ray hits, asked again and again.
    Probe,
    /// What a body stands on.
    Footing,
    /// Who is seen.
    Sight,
    /// Which of many it has chosen.
    Seeker,
    /// Who collects it.
    Pickup,
    /// How its stats change.
    Stats,
    /// Who holds it, and when it comes to rest.
    Carry,
    /// Where it gets to on its way, and what stops it. Everything has it, since everything may be
    /// sent on a way.
    Route,
    /// What is put elsewhere from here or to here. Everything has it.
    Teleport,
}

impl Detector {
    /// All of them.
    pub const ALL: [Self; 13] = [
        Self::Zone,
        Self::Touch,
        Self::Pointer,
        Self::Prompt,
        Self::Probe,
        Self::Footing,
        Self::Sight,
        Self::Seeker,
        Self::Pickup,
        Self::Stats,
        Self::Carry,
        Self::Route,
        Self::Teleport,
    ];

    /// The key for it in scene files.
    pub fn word(self) -> &'static str {
        match self {
            Self::Zone => "zone",
            Self::Touch => "touch",
            Self::Pointer => "pointer",
            Self::Prompt => "prompt",
            Self::Probe => "probe",
            Self::Footing => "footing",
            Self::Sight => "sight",
            Self::Seeker => "seeker",
            Self::Pickup => "pickup",
            Self::Stats => "stats",
            Self::Carry => "carry",
            Self::Route => "route",
            Self::Teleport => "teleport",
        }
    }

    /// The word with its article.
    pub(crate) fn noun(self) -> String {
        if self == Self::Stats { "stats".into() } else { format!("a {}", self.word()) }
    }

    /// The event with which it begins to detect a subject; none if it detects for a moment only.
    pub fn opens(self) -> Option<EventKind> {
        Some(match self {
            Self::Zone => EventKind::Enter,
            Self::Touch => EventKind::Touch,
            Self::Pointer => EventKind::Hover,
            Self::Prompt => EventKind::Offer,
            Self::Probe => EventKind::Hit,
            Self::Footing => EventKind::Land,
            Self::Sight => EventKind::Spot,
            Self::Seeker => EventKind::Retarget,
            Self::Pickup | Self::Stats | Self::Carry | Self::Route | Self::Teleport => return None,
        })
    }

    /// The event with which it ceases to detect a subject; none if it detects for a moment only.
    pub fn closes(self) -> Option<EventKind> {
        Some(match self {
            Self::Zone => EventKind::Exit,
            Self::Touch => EventKind::Untouch,
            Self::Pointer => EventKind::Unhover,
            Self::Prompt => EventKind::Withdraw,
            Self::Probe => EventKind::Clear,
            Self::Footing => EventKind::LiftOff,
            Self::Sight => EventKind::Lose,
            Self::Seeker => EventKind::Retarget,
            Self::Pickup | Self::Stats | Self::Carry | Self::Route | Self::Teleport => return None,
        })
    }
}

impl fmt::Display for Detector {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(self.word())
    }
}

macro_rules! event_kinds {
    ($($(#[$about:meta])* $kind:ident $word:literal $detector:expr;)*) => {
        /// What sort of thing was detected.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        #[non_exhaustive]
        pub enum EventKind {
            $($(#[$about])* $kind,)*
        }

        impl EventKind {
            /// All of them.
            pub const ALL: &[Self] = &[$(Self::$kind),*];

            /// The word for it in files and logs.
            pub fn word(self) -> &'static str {
                match self {
                    $(Self::$kind => $word,)*
                }
            }

            /// The detector whose event it is; none for `start` and `cue`.
            pub fn detector(self) -> Option<Detector> {
                match self {
                    $(Self::$kind => $detector,)*
                }
            }
        }
    };
}

event_kinds! {
    /// The play began.
    Start "start" None;
    /// A subject came into a zone.
    Enter "enter" Some(Detector::Zone);
    /// A subject left a zone.
    Exit "exit" Some(Detector::Zone);
    /// A subject has stayed in a zone for another interval.
    Inside "inside" Some(Detector::Zone);
    /// A subject began to touch something.
    Touch "touch" Some(Detector::Touch);
    /// A subject touches something no more.
    Untouch "untouch" Some(Detector::Touch);
    /// A player's pointer came over something.
    Hover "hover" Some(Detector::Pointer);
    /// A player's pointer left something.
    Unhover "unhover" Some(Detector::Pointer);
    /// A player pressed a button over something.
    PointerDown "pointer_down" Some(Detector::Pointer);
    /// A player let go of a button over something.
    PointerUp "pointer_up" Some(Detector::Pointer);
    /// A player pressed a button and let go of it over the same thing.
    Click "click" Some(Detector::Pointer);
    /// A player moved something while holding a button.
    Drag "drag" Some(Detector::Pointer);
    /// A player may use something from now on.
    Offer "offer" Some(Detector::Prompt);
    /// A player may use it no more.
    Withdraw "withdraw" Some(Detector::Prompt);
    /// A player began to hold the key of a prompt.
    Hold "hold" Some(Detector::Prompt);
    /// A player has used a prompt.
    Accept "accept" Some(Detector::Prompt);
    /// A player let go of the key too early, or the offer ended meanwhile.
    Cancel "cancel" Some(Detector::Prompt);
    /// A player has used something that makes no offers.
    Interact "interact" Some(Detector::Prompt);
    /// A player tried to use something and lacks what it needs.
    Refused "refused" Some(Detector::Prompt);
    /// A probe began to hit something.
    Hit "hit" Some(Detector::Probe);
    /// A probe hits it no more.
    Clear "clear" Some(Detector::Probe);
    /// A body came to stand on something.
    Land "land" Some(Detector::Footing);
    /// A body left what it stood on.
    LiftOff "lift_off" Some(Detector::Footing);
    /// A watcher has noticed somebody.
    Spot "spot" Some(Detector::Sight);
    /// A watcher has forgotten somebody.
    Lose "lose" Some(Detector::Sight);
    /// A seeker chose another target, or none.
    Retarget "retarget" Some(Detector::Seeker);
    /// A pickup was collected.
    Collect "collect" Some(Detector::Pickup);
    /// A pickup came back.
    Respawn "respawn" Some(Detector::Pickup);
    /// A stat changed.
    Stat "stat" Some(Detector::Stats);
    /// A stat sank to its least.
    Empty "empty" Some(Detector::Stats);
    /// A stat rose to its most.
    Full "full" Some(Detector::Stats);
    /// A thing was taken into somebody's hands.
    Grab "grab" Some(Detector::Carry);
    /// Somebody let go of something, or threw it.
    Drop "drop" Some(Detector::Carry);
    /// Something that was let go of, or pushed off, came to rest.
    Settle "settle" Some(Detector::Carry);
    /// Something came to a stop of its way.
    Reach "reach" Some(Detector::Route);
    /// A body was in the way of something that moves, which stopped or turned back.
    Blocked "blocked" Some(Detector::Route);
    /// Something was about to be put elsewhere.
    Depart "depart" Some(Detector::Teleport);
    /// Something was put here.
    Arrive "arrive" Some(Detector::Teleport);
    /// A cue was sent.
    Cue "cue" None;
}

impl EventKind {
    /// The kind that this word means.
    pub fn from_word(word: &str) -> Option<Self> {
        Self::ALL.iter().copied().find(|kind| kind.word() == word)
    }

    /// Whether a subject begins to be detected with it.
    pub fn is_opening(self) -> bool {
        self.detector().is_some_and(|detector| detector.opens() == Some(self))
    }

    /// Whether a subject ceases to be detected with it.
    pub fn is_closing(self) -> bool {
        self.detector().is_some_and(|detector| detector.closes() == Some(self))
    }
}

impl fmt::Display for EventKind {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(self.word())
    }
}
