//! A client that holds no scene: it knows of the play what its player may know, in words and numbers.

use std::collections::BTreeMap;

use hazuro::scene::Fault;

use crate::deed::Deed;
use crate::guest::Guest;
use crate::message::{Hello, ToClient, read};
use crate::talk::{Standing, Talk, Talks, forget_oldest};
use crate::view::{Kept, Seen, SeenEvent, SeenOffer, View};

/// How many ticks pass at most until something is sent.
const BEAT: u32 = 30;
/// How many ticks pass until deeds that have not been confirmed are sent again.
const AGAIN: u32 = 10;

/// One player's end without the scene: what the host has told of it, some times a second.
///
/// Other than a [`Client`](crate::Client) it plays nothing itself, so that one's own body waits for the
/// line; it can be told what is a secret of its own player's and of nobody else's, and follows a scene that
/// grows.
///
/// ```
/// use hazuro::{Play, Scene, geometry::Shape, scene::{Body, Entity}};
/// use hazuro_link::{Deed, Guest, Room, Rules, Standing, Viewer};
/// let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
/// let scene = Scene::builder("Yard").entity(Entity::new("ada").player(true).body(body)).build()?;
/// let mut room = Room::new(Play::new(scene), Rules::default());
/// let mut viewer = Viewer::new().named("ada");
///
/// let line = room.open(true);
/// for tick in 0..120 {
///     viewer.step();
///     viewer.outgoing().for_each(|bytes| room.receive(line, &bytes));
///     room.step();
///     room.outgoing().for_each(|(_, bytes)| viewer.receive(&bytes));
///     if tick == 30 {
///         viewer.act(Deed::Walk { to: [0.0, 0.0, -3.0].into() })?;
///     }
/// }
/// assert_eq!(viewer.standing(), &Standing::Playing);
/// assert_eq!(viewer.thing("ada").unwrap().position().z, -3.0);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug)]
pub struct Viewer {
    talk: Talk,
    player: Option<String>,
    tick: u64,
    time: f64,
    things: BTreeMap<String, Seen>,
    offers: Vec<SeenOffer>,
    events: Vec<SeenEvent>,
    kept: Vec<Kept>,
    /// How many ticks ago something was sent.
    silent: u32,
    /// The last deed that was sent.
    sent: u64,
}

impl Default for Viewer {
    fn default() -> Self {
        Self::new()
    }
}

impl Viewer {
    /// For any player.
    pub fn new() -> Self {
        Self {
            talk: Talk::new(Hello { view: true, ..Hello::default() }),
            player: None,
            tick: 0,
            time: 0.0,
            things: BTreeMap::new(),
            offers: Vec::new(),
            events: Vec::new(),
            kept: Vec::new(),
            silent: BEAT,
            sent: 0,
        }
    }

    /// Its player, once it has joined.
    pub fn player(&self) -> Option<&str> {
        self.player.as_deref()
    }

    /// Of which moment it was last told, in seconds since the beginning.
    pub fn time(&self) -> f64 {
        self.time
    }

    /// What is seen of a thing; none if nothing was told of it.
    pub fn thing(&self, name: &str) -> Option<&Seen> {
        self.things.get(name)
    }

    /// Everything that was told of, by name.
    pub fn things(&self) -> impl Iterator<Item = (&str, &Seen)> {
        self.things.iter().map(|(name, seen)| (name.as_str(), seen))
    }

    /// What the player may use now.
    pub fn offers(&self) -> &[SeenOffer] {
        &self.offers
    }

    /// What was detected since this was last asked, in order.
    pub fn events(&mut self) -> impl Iterator<Item = SeenEvent> {
        self.events.drain(..)
    }

    /// What the player wanted to take and did not get, since this was last asked.
    pub fn kept(&mut self) -> impl Iterator<Item = Kept> {
        self.kept.drain(..)
    }

    fn hear(&mut self, view: View) {
        // On a bad line it may come late.
        if self.talk.standing != Standing::Playing || view.tick < self.tick {
            return;
        }
        (self.tick, self.time) = (view.tick, view.time);
        for (name, new) in view.things {
            self.things.entry(name).or_default().take(new);
        }
        self.offers = view.offers.unwrap_or(std::mem::take(&mut self.offers));
        self.events.extend(view.events);
        self.kept.extend(view.kept);
        self.talk.said.extend(view.said);
        self.talk.confirm(view.done, view.refused);
        forget_oldest(&mut self.events);
        forget_oldest(&mut self.kept);
    }
}

impl Talks for Viewer {
    fn talk(&self) -> &Talk {
        &self.talk
    }

    fn talk_mut(&mut self) -> &mut Talk {
        &mut self.talk
    }
}

impl Guest for Viewer {
    fn act(&mut self, deed: Deed) -> Result<u64, Fault> {
        if self.player.is_none() {
            let name = self.talk.hello.name.clone().unwrap_or_default();
            return Err(Fault::NotInPlay { name });
        }
        let timed = self.talk.next(deed, None)?;
        Ok(self.talk.keep(timed))
    }

    fn step(&mut self) {
        if !self.talk.go_on() {
            return;
        }
        self.silent += 1;
        let last = self.talk.pending.back().map_or(self.sent, |timed| timed.number);
        let waits = !self.talk.pending.is_empty() && self.silent >= AGAIN;
        if last > self.sent || waits || self.silent >= BEAT {
            (self.silent, self.sent) = (0, last);
            self.talk.report(self.tick, None);
        }
    }

    fn receive(&mut self, bytes: &[u8]) {
        let Some(message) = read::<ToClient>(bytes) else { return self.talk.is_lost() };
        match message {
            ToClient::Welcome(welcome) => {
                if self.talk.standing == Standing::Joining {
                    self.talk.be_welcome(&welcome);
                    (self.player, self.tick) = (Some(welcome.player), welcome.tick);
                    // What was known of it may have become a secret meanwhile.
                    self.things.clear();
                }
            }
            ToClient::Denied { why } => self.talk.standing = Standing::Denied(why),
            ToClient::Closed { why } => self.talk.standing = Standing::Closed(why),
            ToClient::View(view) => self.hear(view),
            // It has asked for none.
            ToClient::Ticks(_) | ToClient::Whole { .. } => self.talk.is_lost(),
        }
    }
}
