//! What goes over a line: messages in CBOR (RFC 8949), as `docs/link.md` describes them.

use std::fmt;

use serde::de::{self, DeserializeOwned, Visitor};
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use thiserror::Error;

use crate::deed::Deed;
use crate::rules::{MAX_DEEDS, MAX_TO_HOST, MAX_WORD};
use crate::view::View;

/// The version of the messages.
pub const VERSION: u32 = 1;

/// What a client sends.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub(crate) enum ToHost {
    /// The first message.
    Hello(Hello),
    /// What the player did, and how much of the host's play is known.
    Deeds(Deeds),
    /// The whole state is wanted.
    Lost,
    /// The player leaves for good.
    Bye,
}

/// Who wants to join.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct Hello {
    /// The version of the messages.
    pub version: u32,
    /// The fingerprint of the client's scene as it begins; none if it has none.
    #[serde(default)]
    pub scene: Option<u64>,
    /// Whether it wants to be told a view instead of the state.
    #[serde(default)]
    pub view: bool,
    /// The player that is wanted; any, if none.
    #[serde(default)]
    pub name: Option<String>,
    /// The word that one must know.
    #[serde(default)]
    pub token: Option<String>,
    /// The key of a seat that one had.
    #[serde(default)]
    pub key: Option<String>,
}

/// What a player did.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct Deeds {
    /// The last tick of the host that is known.
    #[serde(default)]
    pub heard: u64,
    /// The client's own time, in nanoseconds of the play, if it has any.
    #[serde(default)]
    pub now: Option<i64>,
    /// What has not been confirmed, in order.
    #[serde(default)]
    pub list: Vec<Timed>,
}

/// A deed with its number and the client's own time.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct Timed {
    /// Counted from 1, without a gap.
    pub number: u64,
    /// When it is to happen, in nanoseconds of the play; as soon as it comes, if nothing is said.
    #[serde(default)]
    pub at: Option<i64>,
    pub deed: Deed,
}

/// What a host sends.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub(crate) enum ToClient {
    /// The client has a seat.
    Welcome(Welcome),
    /// The client has none.
    Denied { why: Denial },
    /// What has become different.
    Ticks(Ticks),
    /// What a player may know has become different.
    View(View),
    /// The state as a whole, as what is different from the beginning.
    Whole { tick: u64, state: Bytes },
    /// The line is closed.
    Closed { why: String },
}

/// Who one is.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Welcome {
    /// The player.
    pub player: String,
    /// With which one gets the same seat again.
    pub key: String,
    /// Ticks a second.
    pub rate: u32,
    /// The last deed that was done from this seat.
    pub done: u64,
    /// The tick of the state.
    pub tick: u64,
    /// What is different from the beginning; nothing for who is told a view.
    #[serde(default, skip_serializing_if = "Bytes::is_empty")]
    pub state: Bytes,
}

/// What has become different in some ticks.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct Ticks {
    /// The first of them; it is told what is different from the tick before.
    pub first: u64,
    /// Each of them.
    pub each: Vec<Tick>,
    /// The last deed that was received before the end of the last of them.
    pub done: u64,
    /// How many seconds the client's time was ahead of the host's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lead: Option<f64>,
    /// The numbers of deeds that were not done, and why not.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub refused: Vec<(u64, String)>,
    /// The fingerprint of the state after the last of them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fingerprint: Option<u64>,
}

/// What has become different in one tick, and what happened.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct Tick {
    #[serde(rename = "d", default, skip_serializing_if = "Bytes::is_empty")]
    pub delta: Bytes,
    #[serde(rename = "e", default, skip_serializing_if = "Bytes::is_empty")]
    pub events: Bytes,
    /// Texts for this player.
    #[serde(rename = "s", default, skip_serializing_if = "Vec::is_empty")]
    pub said: Vec<String>,
}

/// Why a client may not join.
///
/// ```
/// use hazuro_link::Denial;
/// assert_eq!(Denial::Full.to_string(), "all players are played already");
/// ```
#[derive(Clone, Debug, Error, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[non_exhaustive]
pub enum Denial {
    /// It speaks another version.
    #[error("the host speaks version {host} of the messages")]
    Version {
        /// The host's.
        host: u32,
    },
    /// It has another scene.
    #[error("the host plays another scene, or another version of it")]
    Scene,
    /// It does not know the word.
    #[error("the host asks for another token")]
    Token,
    /// There is no such player.
    #[error("there is no player named `{name}`")]
    NoPlayer {
        /// The name.
        name: String,
    },
    /// Somebody else plays that player.
    #[error("somebody else plays `{name}`")]
    Taken {
        /// The name.
        name: String,
    },
    /// The seat has been given up meanwhile.
    #[error("the seat was given up, after nobody had come back to it for too long")]
    GivenUp,
    /// It would know secrets.
    #[error(
        "the scene has secrets, which a client would read in the state: it must ask for a view"
    )]
    Secrets,
    /// There is no player left.
    #[error("all players are played already")]
    Full,
}

/// Bytes, as such.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) struct Bytes(pub Vec<u8>);

impl Bytes {
    fn is_empty(&self) -> bool {
        self.0.is_empty()
    }
}

impl Serialize for Bytes {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        to.serialize_bytes(&self.0)
    }
}

impl<'de> Deserialize<'de> for Bytes {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        struct Read;

        impl Visitor<'_> for Read {
            type Value = Bytes;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("bytes")
            }

            fn visit_bytes<E: de::Error>(self, bytes: &[u8]) -> Result<Bytes, E> {
                Ok(Bytes(bytes.into()))
            }

            fn visit_byte_buf<E: de::Error>(self, bytes: Vec<u8>) -> Result<Bytes, E> {
                Ok(Bytes(bytes))
            }
        }

        from.deserialize_byte_buf(Read)
    }
}

/// How messages are written on a line.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Notation {
    /// As CBOR (RFC 8949).
    #[default]
    Cbor,
    /// As JSON (RFC 8259).
    Json,
}

impl Notation {
    /// That of a message. No message in CBOR begins as one in JSON does.
    pub fn of(bytes: &[u8]) -> Self {
        if matches!(bytes.first(), Some(b'{' | b'"')) { Self::Json } else { Self::Cbor }
    }

    /// A message as bytes.
    pub fn write(self, message: &impl Serialize) -> Vec<u8> {
        match self {
            Self::Cbor => write(message),
            Self::Json => serde_json::to_vec(message).expect("a message can be written to memory"),
        }
    }
}

/// A message as bytes.
pub(crate) fn write(message: &impl Serialize) -> Vec<u8> {
    let mut bytes = Vec::new();
    ciborium::into_writer(message, &mut bytes).expect("a message can be written to memory");
    bytes
}

/// A message; none if it is none, or there is something behind it.
pub(crate) fn read<T: DeserializeOwned>(mut bytes: &[u8]) -> Option<T> {
    if Notation::of(bytes) == Notation::Json {
        return serde_json::from_slice(bytes).ok();
    }
    // Lists in lists cost stack; no message has many.
    let message = ciborium::de::from_reader_with_recursion_limit(&mut bytes, 16).ok()?;
    bytes.is_empty().then_some(message)
}

/// A message of a client, if it is one and keeps within the bounds.
pub(crate) fn read_to_host(bytes: &[u8]) -> Option<ToHost> {
    if bytes.len() > MAX_TO_HOST {
        return None;
    }
    let message: ToHost = read(bytes)?;
    let short = |word: &Option<String>| word.as_ref().is_none_or(|word| word.len() <= MAX_WORD);
    let fits = match &message {
        ToHost::Hello(hello) => short(&hello.name) && short(&hello.token) && short(&hello.key),
        ToHost::Deeds(deeds) => deeds.list.len() <= MAX_DEEDS,
        ToHost::Lost | ToHost::Bye => true,
    };
    fits.then_some(message)
}
