//! Several players on one scene: a host that decides, clients that mirror it, and the lines between.
//!
//! The host keeps a [`Room`]: a play, and a seat for each player who has joined. A [`Client`] sends what
//! its player does, and is told what has become different in the state of the play, tick by tick. Since the
//! same input gives the same play everywhere, a client knows the host's very state, to the last bit, and
//! plays on from it by itself what its own player has done since: its own body never waits for the line.
//! Where the host found otherwise, that is a [`Correction`].
//!
//! Neither of them reads a clock or a network. With the feature `socket`, which is on by default, the module of
//! that name carries their messages by `WebSocket`; a [`Rehearsal`] lets a room and its clients play over lines that lose, delay and turn over messages, the
//! same for the same seed.
//!
//! ```
//! use hazuro::{Play, Scene, geometry::Shape, scene::{Body, Entity}};
//! use hazuro_link::{Client, Conditions, Deed, Guest, Rehearsal, Room, Rules};
//! let body = || Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
//! let scene = Scene::builder("Yard")
//!     .entity(Entity::new("ada").player(true).body(body()))
//!     .entity(Entity::new("bob").player(true).at([2.0, 0.0, 0.0]).body(body()))
//!     .build()?;
//!
//! let room = Room::new(Play::new(scene.clone()), Rules::default());
//! let mut desk = Rehearsal::new(room);
//! let slow = Conditions { delay: 0.1, jitter: 0.02, loss: 0.1, ..Conditions::default() };
//! let ada = desk.join(Client::new(scene.clone()).named("ada"), slow, 1);
//! let bob = desk.join(Client::new(scene).named("bob"), slow, 2);
//! desk.advance(1.0);
//! desk.client(ada).act(Deed::Walk { to: [0.0, 0.0, -3.0].into() })?;
//! desk.advance(2.0);
//! let seen = desk.client(bob).play().pose("ada")?;
//! assert_eq!(seen.position.z, -3.0);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod ahead;
mod client;
mod conditions;
mod deed;
mod guest;
mod line;
mod message;
mod onlooker;
mod pace;
mod rehearsal;
mod room;
mod rules;
mod seat;
#[cfg(feature = "socket")]
pub mod socket;
mod talk;
mod told;
mod view;
mod viewer;
#[cfg(feature = "socket")]
mod visitor;

pub use ahead::Correction;
pub use client::Client;
pub use conditions::Conditions;
pub use deed::{Deed, NotDone, Press, Spot, To};
pub use guest::Guest;
pub use line::LineId;
pub use message::{Denial, VERSION};
pub use rehearsal::Rehearsal;
pub use room::{Heard, News, Room};
pub use rules::Rules;
pub use seat::Seat;
pub use talk::Standing;
pub use view::{Kept, Seen, SeenEvent, SeenOffer};
pub use viewer::Viewer;
