//! The client: one player's end of the line.

use std::collections::VecDeque;
use std::sync::Arc;

use hazuro::geometry::Pose;
use hazuro::scene::{EntityKey, Facts, Fault};
use hazuro::{Delta, EntityId, Event, Play, Scene, State, Time};

use crate::ahead::{Ahead, Correction};
use crate::deed::Deed;
use crate::message::{
    Deeds, Denial, Hello, Ticks, Timed, ToClient, ToHost, VERSION, Welcome, read, write,
};
use crate::pace::Pace;
use crate::told::{fingerprint, unpack};

/// How many ticks a client waits before it asks once more.
const ASK_AGAIN: u32 = 30;
/// The most events, texts and the like that are kept until somebody asks for them; the oldest go first.
const MOST: usize = 4096;
/// The most deeds that may wait to be confirmed.
const MOST_PENDING: usize = 1024;
/// How many moments of the host are kept, to show others between two of them.
const SHOWN: usize = 32;

/// One player's end: what the host has said, and what the player has done since.
///
/// [`play`](Self::play) is the host's play as last heard, with the same questions as ever.
/// [`ahead`](Self::ahead) is the play as it goes on from there with what the player has done
/// meanwhile. Neither is to be stepped: [`step`](Self::step) does.
///
/// See the [crate] for an example.
#[derive(Debug)]
pub struct Client {
    hello: Hello,
    standing: Standing,
    play: Play,
    start: State,
    /// The host's state, and of which tick.
    state: State,
    tick: u64,
    is_news: bool,
    ahead: Ahead,
    player: Option<EntityId>,
    /// What the player has done and the host has not confirmed.
    pending: VecDeque<Timed>,
    deeds: u64,
    lead: Option<f64>,
    events: Vec<Event>,
    said: Vec<String>,
    corrections: Vec<Correction>,
    refused: Vec<(u64, String)>,
    /// When which poses were heard of.
    shown: VecDeque<(Time, Vec<Pose>)>,
    pace: Pace,
    asks_in: u32,
    out: Vec<Vec<u8>>,
}

/// How a client stands with its host.
///
/// ```
/// use hazuro_link::{Denial, Standing};
/// assert_ne!(Standing::Joining, Standing::Denied(Denial::Full));
/// ```
#[derive(Clone, Debug, PartialEq)]
pub enum Standing {
    /// It has asked to join, and has no answer yet.
    Joining,
    /// It plays.
    Playing,
    /// It may not join.
    Denied(Denial),
    /// The host has closed the line, for this reason.
    Closed(String),
}

impl Client {
    /// A client of a host that plays this scene, for any player.
    pub fn new(scene: impl Into<Arc<Scene>>) -> Self {
        let scene = scene.into();
        let play = Play::new(Arc::clone(&scene));
        let (start, ahead) = (play.state().clone(), Ahead::new(Play::new(Arc::clone(&scene)), 0));
        let hello = Hello {
            version: VERSION,
            scene: Some(fingerprint(&scene, &start)),
            ..Hello::default()
        };
        Self {
            hello,
            standing: Standing::Joining,
            state: start.clone(),
            play,
            start,
            tick: 0,
            is_news: false,
            ahead,
            player: None,
            pending: VecDeque::new(),
            deeds: 0,
            lead: None,
            events: Vec::new(),
            said: Vec::new(),
            corrections: Vec::new(),
            refused: Vec::new(),
            shown: VecDeque::new(),
            pace: Pace::default(),
            asks_in: 0,
            out: Vec::new(),
        }
    }

    /// Wants this player and no other.
    #[must_use]
    pub fn named(mut self, player: impl Into<String>) -> Self {
        self.hello.name = Some(player.into());
        self
    }

    /// Knows the word that the host asks for.
    #[must_use]
    pub fn token(mut self, token: impl Into<String>) -> Self {
        self.hello.token = Some(token.into());
        self
    }

    /// How it stands with the host.
    pub fn standing(&self) -> &Standing {
        &self.standing
    }

    /// Its player, once it has joined.
    pub fn player(&self) -> Option<EntityId> {
        self.player
    }

    /// The play as the host has told it.
    pub fn play(&self) -> &Play {
        &self.play
    }

    /// The play as it goes on from there with what the player has done since.
    pub fn ahead(&self) -> &Play {
        &self.ahead.play
    }

    /// Where to show something in the world: what is the player's own where it is by what the player did,
    /// corrections little by little; everything else between two moments that the host has told.
    ///
    /// # Errors
    /// If the scene has no such entity.
    pub fn pose(&self, who: impl EntityKey) -> Result<Pose, Fault> {
        let who = self.play.scene().entity_id(who)?;
        let facts = self.ahead.play.facts();
        let mut up = Some(who);
        while let Some(entity) = up {
            if Some(entity) == self.player || facts.holder(entity) == self.player {
                let pose = self.ahead.play.pose(who)?;
                let position = pose.position + self.ahead.slide();
                return Ok(Pose { position, ..pose });
            }
            up = facts.parent(entity);
        }
        Ok(self.between(who).unwrap_or(self.play.pose(who)?))
    }

    /// Where something was at the moment that is shown, between what was heard before that and after.
    fn between(&self, who: EntityId) -> Option<Pose> {
        let after = self.shown.iter().position(|(time, _)| *time >= self.pace.moment())?;
        let (until, to) = &self.shown[after];
        let Some(before) = after.checked_sub(1) else { return Some(to[who.index()]) };
        let (since, from) = &self.shown[before];
        let share = (self.pace.moment() - *since).secs() / (*until - *since).secs().max(1e-9);
        let [from, to] = [from[who.index()], to[who.index()]];
        Some(Pose {
            position: from.position.lerp(to.position, share),
            rotation: from.rotation.slerp(to.rotation, share),
        })
    }

    /// Lets the player do something now. Gives its number.
    ///
    /// # Errors
    /// If the client has not joined, a thousand deeds have not been confirmed, it names what the scene does
    /// not have, or a number is out of its range.
    pub fn act(&mut self, deed: Deed) -> Result<u64, Fault> {
        let name = || Fault::NotInPlay { name: self.hello.name.clone().unwrap_or_default() };
        let player = self.player.ok_or_else(name)?;
        if self.pending.len() >= MOST_PENDING {
            return Err(Fault::TooManyInputs);
        }
        self.catch_up(player);
        let timed = Timed { number: self.deeds + 1, at: Some(self.ahead.now().nanos()), deed };
        self.ahead.act(&timed, player)?;
        self.deeds += 1;
        self.pending.push_back(timed);
        Ok(self.deeds)
    }

    /// What the host has told of since this was last asked, in order.
    pub fn events(&mut self) -> impl Iterator<Item = Event> {
        self.events.drain(..)
    }

    /// Texts for the player since this was last asked.
    pub fn said(&mut self) -> impl Iterator<Item = String> {
        self.said.drain(..)
    }

    /// By how much the own body was put elsewhere than foreseen, since this was last asked.
    pub fn corrections(&mut self) -> impl Iterator<Item = Correction> {
        self.corrections.drain(..)
    }

    /// The numbers of deeds that the host has not done since this was last asked, and why not.
    pub fn refused(&mut self) -> impl Iterator<Item = (u64, String)> {
        self.refused.drain(..)
    }

    /// What is to be sent.
    pub fn outgoing(&mut self) -> impl Iterator<Item = Vec<u8>> {
        self.out.drain(..)
    }

    /// Joins again by another line, as the same player.
    pub fn come_back(&mut self) {
        (self.standing, self.asks_in) = (Standing::Joining, 0);
    }

    /// Leaves for good.
    pub fn leave(&mut self) {
        self.out.push(write(&ToHost::Bye));
        self.standing = Standing::Closed("it has left".into());
    }

    /// A message has come by the line. What is none is left out.
    pub fn receive(&mut self, bytes: &[u8]) {
        let Some(message) = read::<ToClient>(bytes) else { return self.is_lost() };
        match message {
            ToClient::Welcome(welcome) => self.be_welcome(welcome),
            ToClient::Denied { why } => self.standing = Standing::Denied(why),
            ToClient::Closed { why } => self.standing = Standing::Closed(why),
            ToClient::Whole { tick, state } => {
                if tick > self.tick && self.standing == Standing::Playing {
                    self.begin_at(tick, &state.0);
                }
            }
            ToClient::Ticks(ticks) => self.hear(ticks),
            // It has asked for none.
            ToClient::View(_) => self.is_lost(),
        }
    }

    fn be_welcome(&mut self, welcome: Welcome) {
        let player = self.play.scene().find(&welcome.player);
        if self.standing != Standing::Joining || player.is_none() {
            return;
        }
        let rated = [&mut self.play, &mut self.ahead.play].map(|play| play.set_rate(welcome.rate));
        if rated.iter().any(Result::is_err) || !self.begin_at(welcome.tick, &welcome.state.0) {
            return;
        }
        self.player = player;
        self.hello.key = Some(welcome.key);
        self.deeds = self.deeds.max(welcome.done);
        self.pending.retain(|timed| timed.number > welcome.done);
        self.standing = Standing::Playing;
    }

    /// Begins with a state that is told as a whole. Whether it is one.
    fn begin_at(&mut self, tick: u64, told: &[u8]) -> bool {
        let scene = self.play.scene();
        let mut state = self.start.clone();
        let delta: Option<Delta> = unpack(scene, told);
        if delta.is_none_or(|delta| state.take(delta, scene).is_err()) {
            return false;
        }
        (self.state, self.tick, self.is_news) = (state, tick, true);
        true
    }

    /// What has become different.
    fn hear(&mut self, ticks: Ticks) {
        if self.standing != Standing::Playing {
            return;
        }
        let last = ticks.first + ticks.each.len() as u64;
        if ticks.first > self.tick + 1 {
            return self.is_lost();
        }
        for (tick, told) in (ticks.first..).zip(ticks.each) {
            if tick <= self.tick {
                continue;
            }
            let scene = self.play.scene();
            let delta: Option<Delta> = unpack(scene, &told.delta.0);
            if delta.is_none_or(|delta| self.state.take(delta, scene).is_err()) {
                return self.is_lost();
            }
            if !told.events.0.is_empty() {
                let events: Option<Vec<Event>> = unpack(scene, &told.events.0);
                self.events.extend(events.unwrap_or_default());
            }
            self.said.extend(told.said);
            (self.tick, self.is_news) = (tick, true);
        }
        if self.tick + 1 != last {
            return;
        }
        let known = self.pending.front().map_or(self.deeds + 1, |timed| timed.number);
        self.refused.extend(ticks.refused.into_iter().filter(|(number, _)| *number >= known));
        self.pending.retain(|timed| timed.number > ticks.done);
        self.lead = ticks.lead.or(self.lead);
        forget_oldest(&mut self.events);
        forget_oldest(&mut self.said);
        forget_oldest(&mut self.refused);
        forget_oldest(&mut self.corrections);
        if ticks.fingerprint.is_some_and(|it| it != self.state.fingerprint()) {
            self.is_lost();
        }
    }

    /// What is known is not enough to go on.
    fn is_lost(&mut self) {
        if self.standing == Standing::Playing && self.asks_in == 0 {
            self.asks_in = ASK_AGAIN;
            self.out.push(write(&ToHost::Lost));
        }
    }

    /// Takes in what the host has told, and plays on from there to the client's own time.
    fn catch_up(&mut self, player: EntityId) {
        if !std::mem::take(&mut self.is_news) {
            return;
        }
        // It is a state of this scene.
        let _ = self.play.restore(self.state.clone());
        let told = (&self.state, self.tick);
        self.corrections.extend(self.ahead.correct(told, player, &self.pending));
        let scene = self.play.scene();
        let poses = scene.ids().filter_map(|it| self.play.pose(it).ok()).collect();
        self.shown.push_back((self.play.now(), poses));
        self.pace.hear();
        if self.shown.len() > SHOWN {
            self.shown.pop_front();
        }
    }

    /// Goes on by a tick of the client's own clock.
    pub fn step(&mut self) {
        match self.standing {
            Standing::Joining => {
                if self.asks_in == 0 {
                    self.asks_in = ASK_AGAIN;
                    self.out.push(write(&ToHost::Hello(self.hello.clone())));
                }
                self.asks_in -= 1;
                return;
            }
            Standing::Playing => {}
            Standing::Denied(_) | Standing::Closed(_) => return,
        }
        let Some(player) = self.player else { return };
        self.asks_in = self.asks_in.saturating_sub(1);
        self.catch_up(player);
        self.pace.go_on(self.play.now(), self.play.rate());
        self.ahead.go_on(&mut self.lead);
        let (heard, now) = (self.tick, self.ahead.now().nanos());
        let list = self.pending.iter().take(crate::rules::MAX_DEEDS).cloned().collect();
        self.out.push(write(&ToHost::Deeds(Deeds { heard, now: Some(now), list })));
    }
}

/// Keeps no more than is to be kept.
fn forget_oldest<T>(kept: &mut Vec<T>) {
    kept.drain(..kept.len().saturating_sub(MOST));
}
