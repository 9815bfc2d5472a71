//! Tapes: what is done in a play of a scene, and when.

use std::ops::Range;
use std::sync::Arc;

use hazuro::{Input, Play, Scene, Time};
use hazuro_format::Source;
use hazuro_script::Scripts;

mod deeds;
mod read;
mod reader;

pub(crate) use deeds::{PlaceKeys, TapeKeys};
pub(crate) use reader::{MAX_SECONDS, Reader};

/// A scene and what is done in it: all that it takes to play the same once more.
#[derive(Debug)]
pub(crate) struct Tape {
    /// Where it is written.
    pub source: Source,
    pub scene: Arc<Scene>,
    pub scripts: Scripts,
    /// The text of the scene, if it is known.
    pub scene_source: Option<Source>,
    pub length: Time,
    /// What is done, in order of time.
    pub inputs: Vec<(Time, Input)>,
    /// Where each of these is written, in the same order.
    pub places: Vec<Range<usize>>,
}

impl Tape {
    /// The same with other things done, in order of time, each with where it is written.
    pub fn with(&self, inputs: Vec<(Time, Input)>, places: Vec<Range<usize>>) -> Self {
        Self {
            source: self.source.clone(),
            scene: self.scene.clone(),
            scripts: self.scripts.clone(),
            scene_source: self.scene_source.clone(),
            length: self.length,
            inputs,
            places,
        }
    }

    /// The line, from 1, on which an input is written, by its number.
    pub fn line_of(&self, input: usize) -> Option<usize> {
        let span = self.places.get(input)?;
        Some(self.source.line_and_column(span.start).0)
    }

    /// A play of its scene, with its scripts, in which all this is going to be done.
    pub fn play(&self) -> Play {
        let mut play = play_of(&self.scene, &self.scripts);
        self.start(&mut play);
        play
    }

    /// As [`play`](Self::play), at another tick rate if one is given, which has been checked.
    pub fn play_at(&self, rate: Option<u32>) -> Play {
        let mut play = self.play();
        if let Some(rate) = rate {
            let taken = play.set_rate(rate);
            debug_assert_eq!(taken, Ok(()), "whoever asks has checked it");
        }
        play
    }

    /// Lets all this be done in a play of its scene that is still at time 0.
    pub fn start(&self, play: &mut Play) {
        for (time, input) in &self.inputs {
            let taken = play.schedule(*time, input.clone());
            debug_assert_eq!(taken, Ok(()), "each was checked when it was read");
        }
    }
}

/// A play of a scene, with the scripts that were checked against it.
pub(crate) fn play_of(scene: &Arc<Scene>, scripts: &Scripts) -> Play {
    let mut play = Play::new(scene.clone());
    scripts.attach(&mut play).expect("scripts are checked against their scene");
    play
}
