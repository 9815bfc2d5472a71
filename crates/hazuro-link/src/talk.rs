//! What every client's end of a line has in common: how it joins, and what it has asked for that the host
//! has not confirmed.

use std::collections::VecDeque;

use hazuro::scene::Fault;

use crate::deed::Deed;
use crate::message::{Deeds, Denial, Hello, Timed, ToHost, VERSION, Welcome, write};
use crate::rules::MAX_DEEDS;

/// How many ticks a client waits before it asks once more.
const ASK_AGAIN: u32 = 30;
/// How many times it says on a bad line that it leaves.
const BYES: u32 = 20;
/// The most deeds that may wait to be confirmed.
const MOST_PENDING: usize = 1024;
/// The most events, texts and the like that are kept until somebody asks for them; the oldest go first.
const MOST: usize = 4096;

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

/// A client's side of what is said. Nothing outside this crate can name it.
#[derive(Debug)]
pub struct Talk {
    pub(crate) hello: Hello,
    pub(crate) standing: Standing,
    /// What the player has done and the host has not confirmed.
    pub(crate) pending: VecDeque<Timed>,
    deeds: u64,
    pub(crate) said: Vec<String>,
    pub(crate) refused: Vec<(u64, String)>,
    asks_in: u32,
    /// How many times it still says that it leaves.
    byes: u32,
    pub(crate) out: Vec<Vec<u8>>,
}

/// Who has one.
pub trait Talks {
    /// What has been said.
    fn talk(&self) -> &Talk;
    /// What has been said.
    fn talk_mut(&mut self) -> &mut Talk;
}

impl Talk {
    /// Has nothing said yet; this is said first.
    pub(crate) fn new(hello: Hello) -> Self {
        Self {
            hello: Hello { version: VERSION, ..hello },
            standing: Standing::Joining,
            pending: VecDeque::new(),
            deeds: 0,
            said: Vec::new(),
            refused: Vec::new(),
            asks_in: 0,
            byes: 0,
            out: Vec::new(),
        }
    }

    /// Goes on by a tick: asks to join until there is an answer. Whether it plays.
    pub(crate) fn go_on(&mut self) -> bool {
        match self.standing {
            Standing::Joining => {
                if self.asks_in == 0 {
                    self.asks_in = ASK_AGAIN;
                    self.out.push(write(&ToHost::Hello(self.hello.clone())));
                }
                self.asks_in -= 1;
                false
            }
            Standing::Playing => {
                self.asks_in = self.asks_in.saturating_sub(1);
                true
            }
            Standing::Denied(_) | Standing::Closed(_) => {
                // What is lost on a bad line is said again; there is no answer.
                if let Some(left) = self.byes.checked_sub(1) {
                    self.byes = left;
                    self.out.push(write(&ToHost::Bye));
                }
                false
            }
        }
    }

    /// How many ticks ago it asked to join for the last time.
    pub(crate) fn waited(&self) -> u64 {
        u64::from(ASK_AGAIN - self.asks_in.min(ASK_AGAIN))
    }

    /// Plays from now on.
    pub(crate) fn be_welcome(&mut self, welcome: &Welcome) {
        self.hello.key = Some(welcome.key.clone());
        self.deeds = self.deeds.max(welcome.done);
        self.pending.retain(|timed| timed.number > welcome.done);
        self.standing = Standing::Playing;
    }

    /// The next deed, with its number. It is done once it has been [kept](Self::keep).
    ///
    /// # Errors
    /// If too many have not been confirmed.
    pub(crate) fn next(&self, deed: Deed, at: Option<i64>) -> Result<Timed, Fault> {
        if self.pending.len() >= MOST_PENDING {
            return Err(Fault::TooManyInputs);
        }
        Ok(Timed { number: self.deeds + 1, at, deed })
    }

    /// Sends a deed until it is confirmed.
    pub(crate) fn keep(&mut self, timed: Timed) -> u64 {
        self.deeds = timed.number;
        self.pending.push_back(timed);
        self.deeds
    }

    /// Sends what has not been confirmed, and how much of the host's play is known.
    pub(crate) fn report(&mut self, heard: u64, now: Option<i64>) {
        let list = self.pending.iter().take(MAX_DEEDS).cloned().collect();
        self.out.push(write(&ToHost::Deeds(Deeds { heard, now, list })));
    }

    /// The host has received deeds, and has not done some.
    pub(crate) fn confirm(&mut self, done: u64, refused: Vec<(u64, String)>) {
        let known = self.pending.front().map_or(self.deeds + 1, |timed| timed.number);
        self.refused.extend(refused.into_iter().filter(|(number, _)| *number >= known));
        self.pending.retain(|timed| timed.number > done);
        forget_oldest(&mut self.said);
        forget_oldest(&mut self.refused);
    }

    /// What is known is not enough to go on.
    pub(crate) fn is_lost(&mut self) {
        if self.standing == Standing::Playing && self.asks_in == 0 {
            self.asks_in = ASK_AGAIN;
            self.out.push(write(&ToHost::Lost));
        }
    }

    /// Joins again by another line, as the same player.
    pub(crate) fn come_back(&mut self) {
        (self.standing, self.asks_in) = (Standing::Joining, 0);
    }

    /// Leaves for good.
    pub(crate) fn leave(&mut self) {
        self.out.push(write(&ToHost::Bye));
        self.byes = BYES;
        self.standing = Standing::Closed("it has left".into());
    }
}

/// Keeps no more than is to be kept.
pub(crate) fn forget_oldest<T>(kept: &mut Vec<T>) {
    kept.drain(..kept.len().saturating_sub(MOST));
}
