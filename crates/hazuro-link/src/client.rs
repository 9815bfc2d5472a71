//! The client: one player's end of the line.

use std::collections::VecDeque;
use std::sync::Arc;

use hazuro::geometry::Pose;
use hazuro::scene::{EntityKey, Facts, Fault};
use hazuro::{Delta, EntityId, Event, Play, Scene, State, Time};

use crate::ahead::{Ahead, Correction};
use crate::deed::Deed;
use crate::guest::Guest;
use crate::message::{Hello, Ticks, ToClient, Welcome, read};
use crate::pace::Pace;
use crate::talk::{Standing, Talk, Talks, forget_oldest};
use crate::told::{fingerprint, unpack};

/// How many moments of the host are kept, to show others between two of them.
const SHOWN: usize = 32;

/// One player's end: what the host has said, and what the player has done since.
///
/// [`play`](Self::play) is the host's play as last heard, with the same questions as ever.
/// [`ahead`](Self::ahead) is the play as it goes on from there with what the player has done
/// meanwhile. Neither is to be stepped: [`step`](Guest::step) does.
///
/// See the [crate] for an example.
#[derive(Debug)]
pub struct Client {
    talk: Talk,
    play: Play,
    start: State,
    /// The host's state, and of which tick.
    state: State,
    tick: u64,
    is_news: bool,
    ahead: Ahead,
    player: Option<EntityId>,
    lead: Option<f64>,
    events: Vec<Event>,
    corrections: Vec<Correction>,
    /// When which poses were heard of.
    shown: VecDeque<(Time, Vec<Pose>)>,
    pace: Pace,
}

impl Client {
    /// A client of a host that plays this scene, for any player.
    pub fn new(scene: impl Into<Arc<Scene>>) -> Self {
        let scene = scene.into();
        let play = Play::new(Arc::clone(&scene));
        let (start, ahead) = (play.state().clone(), Ahead::new(Play::new(Arc::clone(&scene)), 0));
        let known = Some(fingerprint(&scene, &start));
        Self {
            talk: Talk::new(Hello { scene: known, ..Hello::default() }),
            state: start.clone(),
            play,
            start,
            tick: 0,
            is_news: false,
            ahead,
            player: None,
            lead: None,
            events: Vec::new(),
            corrections: Vec::new(),
            shown: VecDeque::new(),
            pace: Pace::default(),
        }
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

    /// What the host has told of since this was last asked, in order.
    pub fn events(&mut self) -> impl Iterator<Item = Event> {
        self.events.drain(..)
    }

    /// By how much the own body was put elsewhere than foreseen, since this was last asked.
    pub fn corrections(&mut self) -> impl Iterator<Item = Correction> {
        self.corrections.drain(..)
    }

    fn be_welcome(&mut self, welcome: &Welcome) {
        let player = self.play.scene().find(&welcome.player);
        if self.talk.standing != Standing::Joining || player.is_none() {
            return;
        }
        let rated = [&mut self.play, &mut self.ahead.play].map(|play| play.set_rate(welcome.rate));
        if rated.iter().any(Result::is_err) || !self.begin_at(welcome.tick, &welcome.state.0) {
            return;
        }
        self.player = player;
        self.ahead.begin(welcome.tick, self.talk.waited());
        self.talk.be_welcome(welcome);
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
        if self.talk.standing != Standing::Playing {
            return;
        }
        let last = ticks.first + ticks.each.len() as u64;
        if ticks.first > self.tick + 1 {
            return self.talk.is_lost();
        }
        for (tick, told) in (ticks.first..).zip(ticks.each) {
            if tick <= self.tick {
                continue;
            }
            let scene = self.play.scene();
            let delta: Option<Delta> = unpack(scene, &told.delta.0);
            if delta.is_none_or(|delta| self.state.take(delta, scene).is_err()) {
                return self.talk.is_lost();
            }
            if !told.events.0.is_empty() {
                let events: Option<Vec<Event>> = unpack(scene, &told.events.0);
                self.events.extend(events.unwrap_or_default());
            }
            self.talk.said.extend(told.said);
            (self.tick, self.is_news) = (tick, true);
        }
        if self.tick + 1 != last {
            return;
        }
        self.talk.confirm(ticks.done, ticks.refused);
        self.lead = ticks.lead.or(self.lead);
        forget_oldest(&mut self.events);
        forget_oldest(&mut self.corrections);
        if ticks.fingerprint.is_some_and(|it| it != self.state.fingerprint()) {
            self.talk.is_lost();
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
        self.corrections.extend(self.ahead.correct(told, player, &self.talk.pending));
        let scene = self.play.scene();
        let poses = scene.ids().filter_map(|it| self.play.pose(it).ok()).collect();
        self.shown.push_back((self.play.now(), poses));
        self.pace.hear();
        if self.shown.len() > SHOWN {
            self.shown.pop_front();
        }
    }
}

impl Talks for Client {
    fn talk(&self) -> &Talk {
        &self.talk
    }

    fn talk_mut(&mut self) -> &mut Talk {
        &mut self.talk
    }
}

impl Guest for Client {
    fn act(&mut self, deed: Deed) -> Result<u64, Fault> {
        let name = || Fault::NotInPlay { name: self.talk.hello.name.clone().unwrap_or_default() };
        let player = self.player.ok_or_else(name)?;
        self.catch_up(player);
        let timed = self.talk.next(deed, Some(self.ahead.now().nanos()))?;
        self.ahead.act(&timed, player)?;
        Ok(self.talk.keep(timed))
    }

    fn step(&mut self) {
        let plays = self.talk.go_on();
        let Some(player) = self.player.filter(|_| plays) else { return };
        self.catch_up(player);
        self.pace.go_on(self.play.now(), self.play.rate());
        self.ahead.go_on(&mut self.lead);
        self.talk.report(self.tick, Some(self.ahead.now().nanos()));
    }

    fn receive(&mut self, bytes: &[u8]) {
        let Some(message) = read::<ToClient>(bytes) else { return self.talk.is_lost() };
        match message {
            ToClient::Welcome(welcome) => self.be_welcome(&welcome),
            ToClient::Denied { why } => self.talk.standing = Standing::Denied(why),
            ToClient::Closed { why } => self.talk.standing = Standing::Closed(why),
            ToClient::Whole { tick, state } => {
                if tick > self.tick && self.talk.standing == Standing::Playing {
                    self.begin_at(tick, &state.0);
                }
            }
            ToClient::Ticks(ticks) => self.hear(ticks),
            // It has asked for none.
            ToClient::View(_) => self.talk.is_lost(),
        }
    }
}
