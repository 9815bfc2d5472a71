//! `hazuro demo`: plays the shipped demo and shows what it detected.

use std::path::Path;
use std::sync::Arc;

use hazuro::scene::{Selector, Trigger};
use hazuro::{By, Entry, Happening, Input, Scene, Time};
use hazuro_demo::{File, SCENE, SCRIPT};
use hazuro_format::{Finding, Source};
use hazuro_script::{Scripts, read_scene_with};
use hazuro_verify::{Miss, Playtest, Question, Report, explain, read_playtest, run_playtest};

use crate::output::{Table, report, say};
use crate::{DemoPlay, Ending};

/// One play of the demo.
struct Story {
    name: DemoPlay,
    title: &'static str,
    /// What it shows, in a few words.
    shows: &'static str,
    file: File,
}

const STORIES: [Story; 4] = [
    Story {
        name: DemoPlay::Gate,
        title: "The sluice gate of a tidal mill opens when a player steps on its pad, and shuts two \
                seconds\nafter the last player has left. A heron starts on the pad: it must not \
                count.",
        shows: "a gate that opens for players",
        file: hazuro_demo::GATE,
    },
    Story {
        name: DemoPlay::Yard,
        title: "In the yard: a bell to click, a brake to drag, a lever to hold, a toll nobody can pay, \
                a\nloose plank, an owl that watches and a weathercock that turns to the nearest \
                sack.",
        shows: "clicks, drags, prompts, a watcher, a target",
        file: hazuro_demo::YARD,
    },
    Story {
        name: DemoPlay::Mill,
        title: "In the mill: four tokens pay the toll, broth makes fast, dust hurts and herbs heal, \
                a\nmillstone is lifted after some training, reeds are cut once the sickle is in \
                hand.",
        shows: "pickups, stats, effects, needs",
        file: hazuro_demo::MILL,
    },
    Story {
        name: DemoPlay::Granary,
        title: "At the granary: a hoist is ridden, a sack carried through a hatch and thrown down the \
                chute,\na ladder climbed, a jump measured, and what drifts on the creek is topped up \
                to nine.",
        shows: "a hoist, carrying, throwing, a ladder, jumps",
        file: hazuro_demo::GRANARY,
    },
];

/// The detector that the short story is about, and who must not set it off.
const PAD: &str = "sluice_pad";
const NOBODY: &str = "heron";

/// Plays the tide mill: its shortest story, one of its plays in full, or all of them.
pub fn demo(play: Option<DemoPlay>, all: bool) -> Ending {
    let told = Mill::read().and_then(|mill| match play {
        _ if all => mill.tell(&STORIES.each_ref()),
        Some(name) => mill.tell(&STORIES.iter().filter(|it| it.name == name).collect::<Vec<_>>()),
        None => mill.begin(),
    });
    told.unwrap_or_else(|findings| report(&findings))
}

/// The demo, read.
struct Mill {
    scene: Arc<Scene>,
    scripts: Scripts,
    table: Table,
}

impl Mill {
    fn read() -> Result<Self, Vec<Finding>> {
        let scene = Source::new(SCENE.name, SCENE.text);
        let script = |path: &Path| Ok(Source::new(path.to_string_lossy(), SCRIPT.text));
        let (scene, scripts) = read_scene_with(&scene, &script)?;
        let scene = Arc::new(scene);
        Ok(Self { table: Table::new(&scene), scene, scripts })
    }

    fn playtest(&self, story: &Story) -> Result<Playtest, Vec<Finding>> {
        let File { name, text } = story.file;
        let playtest = read_playtest(&Source::new(name, text), self.scene.clone())?;
        Ok(playtest.with_scripts(self.scripts.clone()))
    }

    /// Tells some stories in full.
    fn tell(&self, stories: &[&Story]) -> Result<Ending, Vec<Finding>> {
        let (mut met, mut all) = (0, 0);
        for story in stories {
            let playtest = self.playtest(story)?;
            let outcome = run_playtest(&playtest, None);
            say!("{}\n", story.title);
            self.print(playtest.tape(), &outcome.entries);
            say!("");
            let (its_met, its_all) = count(&outcome);
            (met, all) = (met + its_met, all + its_all);
        }
        say!("{met} of {all} expectations met. The scene and the playtests are in demo/tidemill/;");
        say!(
            "`hazuro test demo/tidemill` runs them, `hazuro run SCENE` plays a scene of your own."
        );
        Ok(if met == all { Ending::Fine } else { Ending::Findings })
    }

    fn print(&self, tape: &[(Time, Input)], entries: &[Entry]) {
        say!("{}", self.table.head());
        for line in self.table.lines(&self.scene, tape, entries) {
            say!("{line}");
        }
    }

    /// Tells what the gate's pad detects, what it does not and why, and what else there is.
    fn begin(&self) -> Result<Ending, Vec<Finding>> {
        let [gate, ..] = &STORIES;
        let playtest = self.playtest(gate)?;
        let outcome = run_playtest(&playtest, None);
        say!("{}\n", gate.title);
        let about: Vec<Entry> =
            outcome.entries.iter().filter(|entry| self.is_about_pad(entry)).cloned().collect();
        self.print(playtest.tape(), &about);
        let question = Question::new(&self.scene, "enter", Some(PAD), Some(NOBODY));
        let answer = question.ok().map(|question| explain(&playtest, &question));
        let miss =
            answer.iter().flat_map(|answer| &answer.candidates).find_map(|it| it.miss.as_ref());
        if let Some(miss) = miss {
            say!("\nWhat did not happen: enter {PAD} {NOBODY}");
            say!("  ✗ {}", Miss::line(miss));
            say!("  cure: {}", miss.cure.as_deref().unwrap_or("none"));
        }
        let (mut met, mut all) = count(&outcome);
        say!("\nMore, each played in full:");
        for story in &STORIES[1..] {
            let (its_met, its_all) = count(&run_playtest(&self.playtest(story)?, None));
            (met, all) = (met + its_met, all + its_all);
            say!("  hazuro demo {:<8}  {}", story.name.word(), story.shows);
        }
        say!("{met} of {all} expectations met. `hazuro run SCENE` plays one of your own.");
        Ok(if met == all { Ending::Fine } else { Ending::Findings })
    }

    /// Whether something is an event of the pad, or what came of one.
    fn is_about_pad(&self, entry: &Entry) -> bool {
        let pad = Selector::from(PAD);
        match &entry.what {
            Happening::Event(event) => event.on == self.scene.find(PAD),
            Happening::Did { by: By::Reaction(by), .. }
            | Happening::Said { by: By::Reaction(by), .. } => {
                let triggers = self.scene.reaction(*by).triggers();
                triggers.iter().filter_map(Trigger::detectors).any(|on| *on == pad)
            }
            _ => false,
        }
    }
}

/// How many expectations were met, of how many.
fn count(outcome: &Report) -> (usize, usize) {
    let met = outcome.outcomes.iter().filter(|outcome| outcome.met).count();
    (met, outcome.outcomes.len())
}
