//! What a client is told that holds no scene: what its player may know, in words and numbers.

use std::collections::BTreeMap;

use hazuro::glam::{DQuat, DVec3};
use hazuro::scene::Switch;
use serde::{Deserialize, Serialize};

/// What has become different since a player was last told.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct View {
    pub tick: u64,
    /// Seconds since the beginning.
    pub time: f64,
    /// By name.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub things: BTreeMap<String, Seen>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub events: Vec<SeenEvent>,
    /// All that is offered, if that is different.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub offers: Option<Vec<SeenOffer>>,
    /// Texts.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub said: Vec<String>,
    /// What the player wanted to take and did not get.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub kept: Vec<Kept>,
    /// The last deed that was received.
    pub done: u64,
    /// The numbers of deeds that were not done, and why not.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub refused: Vec<(u64, String)>,
}

/// What is seen of a thing. On the line, and in messages, only what has become different.
///
/// ```
/// use hazuro_link::Viewer;
/// let is_taken = |viewer: &Viewer, name: &str| viewer.thing(name)?.owner().map(str::to_owned);
/// # let _ = is_taken;
/// ```
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Seen {
    /// Whether it is in the play, and no secret.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) there: Option<bool>,
    /// Where it is, in metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) at: Option<[f64; 3]>,
    /// How it is turned, as a quaternion: x, y, z, w.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) turned: Option<[f64; 4]>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) enabled: Option<bool>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) solid: Option<bool>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) detect: Option<bool>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) visible: Option<bool>,
    /// Whom its detectors detect.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) detects: Option<Vec<String>>,
    /// Whose it is; an empty name if it is nobody's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) owner: Option<String>,
}

/// Something that was detected.
///
/// ```
/// use hazuro_link::SeenEvent;
/// let is_entry = |event: &SeenEvent| event.kind == "enter" && event.on.as_deref() == Some("barge");
/// # let _ = is_entry;
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct SeenEvent {
    /// Seconds since the beginning.
    pub time: f64,
    /// As scene files name it, as in `enter`.
    pub kind: String,
    /// What has detected.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub on: Option<String>,
    /// Who was detected.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub who: Option<String>,
    /// Why, as logs name it, as in `move`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cause: Option<String>,
    /// Where, in metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub at: Option<[f64; 3]>,
}

/// Something that a player wanted to take and did not get.
///
/// ```
/// use hazuro_link::Kept;
/// let words = |kept: &Kept| format!("{}: {}", kept.what, kept.why);
/// # let _ = words;
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Kept {
    /// Seconds since the beginning.
    pub time: f64,
    /// What it is.
    pub what: String,
    /// Why not, as in `it belongs to ada since 2.500 s`.
    pub why: String,
}

/// Something that a player may use now.
///
/// ```
/// use hazuro_link::SeenOffer;
/// let words = |offer: &SeenOffer| format!("{} {}", offer.key, offer.caption);
/// # let _ = words;
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct SeenOffer {
    /// The prompt.
    pub with: String,
    /// Its key, as W3C UI Events name it.
    pub key: String,
    /// What it says.
    pub caption: String,
    /// What is to be made to stand out.
    pub highlight: String,
    /// How many seconds the key must be held.
    pub hold: f64,
    /// How much of that is over, from 0 to 1.
    pub progress: f64,
}

impl Seen {
    /// Whether it is in the play, and no secret that is kept from the player.
    pub fn is_there(&self) -> bool {
        self.there == Some(true)
    }

    /// Where it is, in metres, to a tenth of a millimetre.
    pub fn position(&self) -> DVec3 {
        self.at.unwrap_or_default().into()
    }

    /// How it is turned.
    pub fn rotation(&self) -> DQuat {
        self.turned.map_or(DQuat::IDENTITY, |turned| DQuat::from_array(turned).normalize())
    }

    /// Whether a switch of it is on.
    pub fn is_on(&self, switch: Switch) -> bool {
        let is_on = match switch {
            Switch::Enabled => self.enabled,
            Switch::Solid => self.solid,
            Switch::Detect => self.detect,
            Switch::Visible => self.visible,
        };
        is_on == Some(true)
    }

    /// Whom it detects, by name.
    pub fn detects(&self) -> &[String] {
        self.detects.as_deref().unwrap_or_default()
    }

    /// To whom it belongs, if to anybody.
    pub fn owner(&self) -> Option<&str> {
        self.owner.as_deref().filter(|owner| !owner.is_empty())
    }

    /// Takes in what has become different.
    pub(crate) fn take(&mut self, new: Self) {
        fn put<T>(at: &mut Option<T>, new: Option<T>) {
            *at = new.or(at.take());
        }
        let Self { there, at, turned, enabled, solid, detect, visible, detects, owner } = new;
        put(&mut self.there, there);
        put(&mut self.at, at);
        put(&mut self.turned, turned);
        put(&mut self.enabled, enabled);
        put(&mut self.solid, solid);
        put(&mut self.detect, detect);
        put(&mut self.visible, visible);
        put(&mut self.detects, detects);
        put(&mut self.owner, owner);
    }

    /// What of this is different from how it was.
    pub(crate) fn since(&self, was: &Self) -> Option<Self> {
        fn new<T: Clone + PartialEq>(is: Option<&T>, was: Option<&T>) -> Option<T> {
            is.filter(|_| is != was).cloned()
        }
        if self == was {
            return None;
        }
        Some(Self {
            there: new(self.there.as_ref(), was.there.as_ref()),
            at: new(self.at.as_ref(), was.at.as_ref()),
            turned: new(self.turned.as_ref(), was.turned.as_ref()),
            enabled: new(self.enabled.as_ref(), was.enabled.as_ref()),
            solid: new(self.solid.as_ref(), was.solid.as_ref()),
            detect: new(self.detect.as_ref(), was.detect.as_ref()),
            visible: new(self.visible.as_ref(), was.visible.as_ref()),
            detects: new(self.detects.as_ref(), was.detects.as_ref()),
            owner: new(self.owner.as_ref(), was.owner.as_ref()),
        })
    }

    /// All that is told of what is not there, or a secret.
    pub(crate) fn absent() -> Self {
        Self { there: Some(false), ..Self::default() }
    }
}
