//! Hazuro finds out who set off what in a game scene, exactly when, and why not.
//!
//! A [`Scene`] describes entities: what they look like to detection, who may set them off, and
//! what happens then. A [`Play`] runs it, tick by tick, and reports every event at its exact time.
//!
//! ```
//! use hazuro::{Input, Play, Scene, Time, geometry::Shape};
//! use hazuro::scene::{Action, Admit, Body, Entity, Reaction, Trigger, Zone};
//!
//! let scene = Scene::builder("Tide mill")
//!     .entity(
//!         Entity::new("miller")
//!             .tags(["player"])
//!             .at([0.0, 0.0, 8.0])
//!             .body(Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0)),
//!     )
//!     .entity(
//!         Entity::new("sluice_pad")
//!             .at([0.0, 1.0, 0.0])
//!             .zone(Zone::new(Shape::Box { size: [4.0, 2.0, 4.0] }))
//!             .admit(Admit::tags(["player"])),
//!     )
//!     .reaction(Reaction::on(Trigger::enter("sluice_pad")).then(Action::add("visits", 1)))
//!     .build()?;
//!
//! let miller = scene.entity_id("miller")?;
//! let mut play = Play::new(scene);
//! play.schedule(Time::ZERO, Input::Walk { who: miller, to: [0.0, 0.0, 0.0].into() })?;
//! play.advance(Time::from_secs(3.0));
//! assert_eq!(play.count("visits"), 1);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! Lengths are metres, times seconds, angles radians; Y is up, axes are right-handed, and an
//! unturned body faces -Z. The same input gives the same log, bit for bit, on any machine.

mod bodies;
mod chance;
mod describe;
mod detect;
mod fast_hash;
pub mod geometry;
mod model;
pub mod motion;
mod play;
mod react;
mod record;
mod resolve;
#[cfg(feature = "serde")]
mod saving;
pub mod scene;
mod shown;
mod space;
mod state;
mod time;
pub mod why;

pub use chance::Chance;
pub use glam;

pub use detect::probe::ProbeRay;
pub use play::{Act, HandlerId, Lent, Offer, Outcome, Play, Running, Snapshot};
pub use record::{
    By, Entry, Expiry, Failure, Happening, Life, Place, Problem, Refusal, Step, Stopped, TakenBack,
};
#[cfg(feature = "serde")]
pub use saving::LoadError;
pub use scene::{EntityId, Scene};
pub use shown::{number as shown_number, shown};
pub use space::{Filter, Found, Hit, Space};
#[cfg(feature = "serde")]
pub use state::Delta;
pub use state::{
    Button, Cause, Event, Input, Meeting, Origin, Reading, Sighting, Spot, State, Target,
};
pub use time::Time;

/// The example of this crate's README, so that it stays true.
#[doc = include_str!("../README.md")]
#[cfg(doctest)]
struct ReadmeOfCrate;

/// That of the whole project's, too.
#[doc = include_str!("../../../README.md")]
#[cfg(doctest)]
struct Readme;

/// The guide's, too.
#[doc = include_str!("../../../docs/guide.md")]
#[cfg(doctest)]
struct Guide;

/// The example of the page on reactions, so that it stays true.
#[doc = include_str!("../../../docs/reactions.md")]
#[cfg(doctest)]
struct Reactions;
