//! A player's desk: what is to be done there, and what the player is told.

use std::collections::VecDeque;

use hazuro::{EntityId, Entry, Event, Input, Play, Scene, Time};
use hazuro_link::{Client, Correction, Deed, Guest, Rehearsal, Standing};

use super::Player;
use crate::expect::Told;

/// What a player does at the desk.
#[derive(Clone, Debug)]
pub(super) enum Doing {
    Comes,
    Leaves,
    Asks(Deed),
}

/// The desk of one player.
pub(super) struct Desk<'a> {
    pub player: &'a Player,
    seed: u64,
    /// The client at the desk, by its number in the rehearsal.
    client: Option<usize>,
    /// What is still to be done: when, and by which input of the tape, if by any.
    waiting: VecDeque<(Time, Option<usize>, Doing)>,
    /// Of each time that the player came, the input of each deed, in the order of their numbers.
    pub asked: Vec<Vec<usize>>,
    /// What the player may know of what has happened and has not been told of yet, in a scene with secrets.
    knows: Option<VecDeque<Event>>,
    pub told: Told,
    corrections: Vec<(Time, Correction)>,
}

impl<'a> Desk<'a> {
    /// Of a player who comes at the beginning, unless the first of the tape is that they do.
    pub fn new(player: &'a Player, tape: &[(Time, Input)], scene: &Scene, seed: u64) -> Self {
        let mut waiting: VecDeque<(Time, Option<usize>, Doing)> = VecDeque::new();
        for (number, (time, input)) in tape.iter().enumerate() {
            if let Some((_, doing)) = doing(scene, input).filter(|(who, _)| *who == player.id) {
                waiting.push_back((*time, Some(number), doing));
            }
        }
        if !matches!(waiting.front(), Some((.., Doing::Comes))) {
            waiting.push_front((Time::ZERO, None, Doing::Comes));
        }
        Self {
            player,
            seed,
            client: None,
            waiting,
            asked: Vec::new(),
            knows: scene.has_secrets().then(VecDeque::new),
            told: Told::new(player.id),
            corrections: Vec::new(),
        }
    }

    /// Does all that is due. What cannot be done is told in words, with the input it was.
    pub fn act(&mut self, hall: &mut Rehearsal, now: Time) -> Vec<(usize, String)> {
        let mut failed = Vec::new();
        while let Some((time, ..)) = self.waiting.front()
            && *time <= now
            // Whoever is not in yet waits for it, with all that they want to do.
            && !self.client.is_some_and(|it| *hall.client(it).standing() == Standing::Joining)
            && let Some((_, number, doing)) = self.waiting.pop_front()
        {
            let done = self.attempt(hall, number, doing);
            failed.extend(number.zip(done.err()));
        }
        failed
    }

    /// Does something.
    ///
    /// # Errors
    /// Why it cannot be done, in words.
    fn attempt(
        &mut self,
        hall: &mut Rehearsal,
        number: Option<usize>,
        doing: Doing,
    ) -> Result<(), String> {
        let (client, deed) = match (doing, self.client) {
            (Doing::Comes, None) => {
                self.come(hall);
                return Ok(());
            }
            (Doing::Comes, Some(_)) => return Err("somebody is at the desk already".into()),
            (_, None) => return Err("there is nobody at the desk".into()),
            (Doing::Leaves, Some(client)) => {
                hall.client(client).leave();
                self.client = None;
                return Ok(());
            }
            (Doing::Asks(deed), Some(client)) => (hall.client(client), deed),
        };
        match client.standing() {
            Standing::Denied(why) => return Err(why.to_string()),
            Standing::Closed(why) => return Err(why.clone()),
            Standing::Joining | Standing::Playing => {}
        }
        client.act(deed).map_err(|fault| fault.to_string())?;
        // Its number is the next of those that were asked for since the player came.
        self.asked.last_mut().into_iter().zip(number).for_each(|(asked, it)| asked.push(it));
        Ok(())
    }

    fn come(&mut self, hall: &mut Rehearsal) {
        let scene = hall.room.play().scene().clone();
        let client = Client::new(scene.clone()).named(scene.name(self.player.id));
        self.asked.push(Vec::new());
        self.client = Some(hall.join(client, self.player.line, self.seed));
        self.seed = self.seed.wrapping_add(1 << 32);
    }

    /// Takes up the line again if the host has closed it because nothing came by it.
    pub fn keep_on(&mut self, hall: &mut Rehearsal, now: Time) {
        let Some(client) = self.client else { return };
        let is_cut = self
            .player
            .line
            .cut
            .is_some_and(|(from, seconds)| (from..from + seconds).contains(&now.secs()));
        let is_denied = matches!(hall.client(client).standing(), Standing::Denied(_));
        if !is_cut && !is_denied && !hall.is_open(client) {
            hall.come_back(client);
        }
    }

    /// Notes what the player may know of what has just happened.
    pub fn note(&mut self, play: &Play, entries: &[Entry]) {
        let Some(knows) = &mut self.knows else { return };
        let is_known = |id: &EntityId| play.knows(self.player.id, *id).unwrap_or(false);
        let events = entries.iter().filter_map(Entry::event);
        knows.extend(events.filter(|it| it.on.iter().chain(&it.who).all(is_known)).cloned());
    }

    /// Hears what the client has been told by now.
    pub fn hear(&mut self, hall: &mut Rehearsal, now: Time) {
        let Some(number) = self.client else { return };
        let client = hall.client(number);
        if *client.standing() == Standing::Playing && self.told.since.is_none() {
            self.told.since = Some(now);
        }
        for event in client.events() {
            if let Some(knows) = &mut self.knows {
                let Some(place) = knows.iter().position(|it| *it == event) else { continue };
                knows.drain(..=place);
            }
            self.told.events.push((now, event));
        }
        self.corrections.extend(client.corrections().map(|it| (now, it)));
    }

    /// The client at the desk, once it plays.
    pub fn client<'h>(&self, hall: &'h mut Rehearsal) -> Option<&'h Client> {
        let client = hall.client(self.client?);
        (*client.standing() == Standing::Playing).then_some(&*client)
    }

    /// How it went, in words; nothing if nothing is to be said.
    pub fn summary(&self, scene: &Scene) -> Option<String> {
        /// What is not seen is not told of.
        const SEEN: f64 = 0.01;
        let name = scene.name(self.player.id);
        let Some(since) = self.told.since else {
            return Some(format!("{name} was never let in"));
        };
        let seen: Vec<_> = self.corrections.iter().filter(|(_, it)| it.metres > SEEN).collect();
        let most = seen.iter().max_by(|(_, a), (_, b)| a.metres.total_cmp(&b.metres));
        let corrected = most.map_or(String::new(), |(time, most)| {
            let times =
                if seen.len() == 1 { "once".into() } else { format!("{} times", seen.len()) };
            format!(
                ", and was put elsewhere than foreseen {times}, by {:.2} m at most, at {} s",
                most.metres,
                about(*time)
            )
        });
        (since.secs() > 0.1 || !corrected.is_empty())
            .then(|| format!("{name} was in from {} s on{corrected}", about(since)))
    }
}

/// A time in seconds, to the millisecond.
pub(super) fn about(time: Time) -> f64 {
    (time.secs() * 1e3).round() / 1e3
}

/// What an input is as something that a player does at a desk; nothing if only the host does such a thing.
pub(super) fn doing(scene: &Scene, input: &Input) -> Option<(EntityId, Doing)> {
    match input {
        Input::Add { what, at: None } => Some((*what, Doing::Comes)),
        Input::Remove(who) => Some((*who, Doing::Leaves)),
        input => Deed::of(scene, input).map(|(who, deed)| (who, Doing::Asks(deed))),
    }
}
