//! What can be detected, and by which sort of detector.

use std::fmt;
use std::hash::Hash;

/// The detectors that have a table of their own, one row each: variant, key, getter, and what its
/// setter does. The row makes the variant of [`Detector`], the fields of
/// [`Detectors`](super::Detectors) and of what a play reads, setters and getters, and the key in
/// scene files. Its events are rows of [`EventKind`]; what it detects is its file in `detect/`. What is
/// given in braces is put before the rows.
#[doc(hidden)]
#[macro_export]
macro_rules! for_each_detector {
    ($apply:ident $($before:tt)?) => {
        $apply! {
            $($before)?
            /// The bodies that touch it.
            Touch touch touch_of "Let it detect the bodies that touch it.";
            /// The pointers on it.
            Pointer pointer pointer_of "Let it detect what players do with a pointer.";
            /// The players that may use it.
            Prompt prompt prompt_of "Let players use it.";
            /// What a ray hits, asked again and again.
            Probe probe probe_of "Give it a ray that is asked again and again.";
            /// What a body stands on.
            Footing footing footing_of "Find out what it stands on.";
            /// The bodies that it sees.
            Sight sight sight_of "Give it a field of view.";
            /// The target that it has chosen.
            Seeker seeker seeker_of "Let it keep a target.";
        }
    };
}

macro_rules! detectors {
    ($($(#[$about:meta])* $name:ident $key:ident $of:ident $set:literal;)*) => {
        /// A sort of detector. An entity has at most one of each.
        ///
        /// ```
        /// use hazuro::scene::{Detector, EventKind};
        /// assert_eq!(Detector::Touch.opens(), Some(EventKind::Touch));
        /// assert_eq!(EventKind::Untouch.detector(), Some(Detector::Touch));
        /// ```
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        #[non_exhaustive]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        pub enum Detector {
            /// The subjects inside a shape.
            Zone,
            $($(#[$about])* $name,)*
            /// The collectors of it.
            Pickup,
            /// How its stats change.
            Stats,
            /// Its holder, and when it comes to rest.
            Carry,
            /// Whose it is.
            Ownership,
            /// Where it gets to on its way, and what stops it. Everything has it, since everything
            /// may be sent on a way.
            Route,
            /// What is put elsewhere from here or to here. Everything has it.
            Teleport,
            /// Where players click through it and nothing is to be clicked.
            Camera,
        }

        impl Detector {
            /// All of them.
            pub const ALL: [Self; 8 + [$(stringify!($name)),*].len()] = [
                Self::Zone,
                $(Self::$name,)*
                Self::Pickup,
                Self::Stats,
                Self::Carry,
                Self::Ownership,
                Self::Route,
                Self::Teleport,
                Self::Camera,
            ];

            /// The key for it in scene files.
            pub fn word(self) -> &'static str {
                match self {
                    Self::Zone => "zone",
                    $(Self::$name => stringify!($key),)*
                    Self::Pickup => "pickup",
                    Self::Stats => "stats",
                    Self::Carry => "carry",
                    Self::Ownership => "ownership",
                    Self::Route => "route",
                    Self::Teleport => "teleport",
                    Self::Camera => "camera",
                }
            }
        }

        // A detector without events is an oversight.
        const _: () = {
            assert!(Detector::Zone.opens().is_some() && Detector::Zone.closes().is_some());
            $(assert!(Detector::$name.opens().is_some() && Detector::$name.closes().is_some());)*
        };
    };
}

for_each_detector!(detectors);

impl Detector {
    /// The word with its article.
    pub fn noun(self) -> String {
        match self {
            Self::Stats => self.word().into(),
            Self::Ownership => format!("an {}", self.word()),
            _ => format!("a {}", self.word()),
        }
    }
}

impl fmt::Display for Detector {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(self.word())
    }
}

/// The events of detectors, one row each: variant, key, the detector, and whether it opens or closes
/// what that detects. The row makes the variant of [`EventKind`] and the key of a trigger in scene
/// files.
#[doc(hidden)]
#[macro_export]
macro_rules! for_each_event {
    ($apply:ident) => {
        $apply! {
            /// A subject came into a zone.
            Enter enter of Zone opens;
            /// A subject left a zone.
            Exit exit of Zone closes;
            /// A subject has stayed in a zone for another interval.
            Inside inside of Zone;
            /// A subject began to touch something.
            Touch touch of Touch opens;
            /// A subject touches something no more.
            Untouch untouch of Touch closes;
            /// A player's pointer came over something.
            Hover hover of Pointer opens;
            /// A player's pointer left something.
            Unhover unhover of Pointer closes;
            /// A player pressed a button over something.
            PointerDown pointer_down of Pointer;
            /// A player let go of a button over something.
            PointerUp pointer_up of Pointer;
            /// A player pressed a button and let go of it over the same thing.
            Click click of Pointer;
            /// A player moved something while holding a button.
            Drag drag of Pointer;
            /// A player may use something from now on.
            Offer offer of Prompt opens;
            /// A player may use it no more.
            Withdraw withdraw of Prompt closes;
            /// A player began to hold the key of a prompt.
            Hold hold of Prompt;
            /// A player has used a prompt.
            Accept accept of Prompt;
            /// A player let go of the key too early, or the offer ended meanwhile.
            Cancel cancel of Prompt;
            /// A player has used something that makes no offers.
            Interact interact of Prompt;
            /// A player tried to use something and lacks what it needs.
            Refused refused of Prompt;
            /// A probe began to hit something.
            Hit hit of Probe opens;
            /// A probe hits it no more.
            Clear clear of Probe closes;
            /// A body came to stand on something.
            Land land of Footing opens;
            /// A body left what it stood on.
            LiftOff lift_off of Footing closes;
            /// A watcher has noticed somebody.
            Spot spot of Sight opens;
            /// A watcher has forgotten somebody.
            Lose lose of Sight closes;
            /// A seeker chose another target, or none.
            Retarget retarget of Seeker opens closes;
            /// A pickup was collected.
            Collect collect of Pickup;
            /// A pickup came back.
            Respawn respawn of Pickup;
            /// A stat changed.
            Stat stat of Stats;
            /// A stat sank to its least.
            Empty empty of Stats;
            /// A stat rose to its most.
            Full full of Stats;
            /// A thing was taken into somebody's hands.
            Grab grab of Carry;
            /// Somebody let go of something, or threw it.
            Drop drop of Carry;
            /// Something that was let go of, or pushed off, came to rest.
            Settle settle of Carry;
            /// A thing belongs to somebody from now on.
            Own own of Ownership;
            /// A thing belongs to them no more.
            Disown disown of Ownership;
            /// Something came to a stop of its way.
            Reach reach of Route;
            /// A body was in the way of something that moves, which stopped or turned back.
            Blocked blocked of Route;
            /// Something was about to be put elsewhere.
            Depart depart of Teleport;
            /// Something was put here.
            Arrive arrive of Teleport;
            /// A player clicked where nothing is to be clicked.
            Miss miss of Camera;
        }
    };
}

macro_rules! event_kinds {
    ($($(#[$about:meta])* $kind:ident $key:ident of $detector:ident $($edge:ident)*;)*) => {
        /// What sort of thing was detected.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        #[non_exhaustive]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        pub enum EventKind {
            /// The play began.
            Start,
            $($(#[$about])* $kind,)*
            /// A cue was sent.
            Cue,
        }

        impl EventKind {
            /// All of them.
            pub const ALL: &[Self] = &[Self::Start, $(Self::$kind,)* Self::Cue];

            /// The word for it in files and logs.
            pub fn word(self) -> &'static str {
                match self {
                    Self::Start => "start",
                    $(Self::$kind => stringify!($key),)*
                    Self::Cue => "cue",
                }
            }

            /// The detector whose event it is; none for `start` and `cue`.
            pub fn detector(self) -> Option<Detector> {
                match self {
                    $(Self::$kind => Some(Detector::$detector),)*
                    Self::Start | Self::Cue => None,
                }
            }
        }

        impl Detector {
            /// The event with which it begins to detect a subject; none if it detects for a moment
            /// only.
            pub const fn opens(self) -> Option<EventKind> {
                $(event_kinds!(@opens self $detector $kind $($edge)*);)*
                None
            }

            /// The event with which it ceases to detect a subject; none if it detects for a moment
            /// only.
            pub const fn closes(self) -> Option<EventKind> {
                $(event_kinds!(@closes self $detector $kind $($edge)*);)*
                None
            }
        }
    };
    (@opens $of:tt $detector:ident $kind:ident opens $(closes)?) => {
        if matches!($of, Detector::$detector) {
            return Some(EventKind::$kind);
        }
    };
    (@closes $of:tt $detector:ident $kind:ident $(opens)? closes) => {
        if matches!($of, Detector::$detector) {
            return Some(EventKind::$kind);
        }
    };
    (@opens $($other:tt)*) => {};
    (@closes $($other:tt)*) => {};
}

for_each_event!(event_kinds);

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
