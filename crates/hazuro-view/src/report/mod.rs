//! Report pages: one file that shows what was played, readable without scripts and without a
//! network.

mod data;
mod live;
mod sections;

use hazuro::why::Coverage;
use hazuro::{Entry, Play, Time};
use hazuro_format::Finding;
use hazuro_verify::{
    CoverageTable, Loaded, Outcome, Run, check_playtest, check_scene_with, run_playtest_as,
};

use crate::figures::Firings;
use crate::page::Page;
use crate::picture::{Picture, chart_inline};
use crate::recording::Recording;
use crate::timeline::Timeline;
use data::Heard;

/// The look of the page.
const STYLE: &str = include_str!("../../assets/report.css");
/// What the page does if scripts are allowed.
const SCRIPT: &str = include_str!("../../assets/report.js");
/// How large the map is, in pixels of its own.
const MAP: [u32; 2] = [820, 560];
/// How wide the timeline is.
const CHART: f64 = 1160.0;

/// Everything that a page shows of a play.
///
/// ```no_run
/// use hazuro_view::Report;
/// let loaded = hazuro_verify::load("demo/tidemill/gate.playtest.toml".as_ref()).unwrap();
/// let length = loaded.playtest.as_ref().unwrap().length();
/// let page = Report::of(&loaded, length).html();
/// assert!(page.starts_with("<!DOCTYPE html>"));
/// ```
#[derive(Debug)]
pub struct Report<'a> {
    loaded: &'a Loaded,
    until: Time,
    /// Of each expectation; none if a scene was played without a playtest.
    outcomes: Vec<Outcome>,
    /// What went wrong in scripts, handlers and conditions.
    failures: Vec<String>,
    /// What went otherwise than at one desk, of players who play from elsewhere.
    lines: Vec<String>,
    findings: Vec<Finding>,
    coverage: CoverageTable,
    recording: Recording,
    heard: Heard,
}

impl<'a> Report<'a> {
    /// Plays a scene or playtest until a time, and keeps what a page is to show. Expectations are
    /// those of the whole playtest.
    pub fn of(loaded: &'a Loaded, until: Time) -> Self {
        let mut coverage = Coverage::default();
        let mut findings = check_scene_with(&loaded.source, &loaded.scene, &loaded.scripts);
        let (mut outcomes, mut failures, mut lines) = (Vec::new(), Vec::new(), Vec::new());
        if let Some(playtest) = &loaded.playtest {
            findings.extend(check_playtest(playtest));
            let run = Run { coverage: Some(&mut coverage), ..Run::default() };
            let report = run_playtest_as(playtest, run);
            (outcomes, failures, lines) = (report.outcomes, report.failures, report.lines);
        } else {
            let mut play = loaded.play();
            let entries = play.advance_witnessed(until, &mut coverage).to_vec();
            coverage.note(&loaded.scene, &entries);
        }
        let recording = Recording::of(&mut begin(loaded), until);
        let heard = Heard::of(&mut begin(loaded), &recording);
        let coverage = CoverageTable::of(&loaded.scene, &coverage);
        Self { loaded, until, outcomes, failures, lines, findings, coverage, recording, heard }
    }

    /// The page.
    pub fn html(&self) -> String {
        let scene = &self.loaded.scene;
        let mut play = begin(self.loaded);
        play.advance(self.until);
        let mut firings = Firings::default();
        firings.note(&self.recording.entries);
        let mut picture = Picture::new(&play, &firings);
        (picture.recording, picture.span, picture.size) =
            (Some(&self.recording), (Time::ZERO, self.until), MAP);
        let timeline = Timeline::of(scene, &self.recording);
        let (live, scale) = live::map(&picture, begin(self.loaded), &self.recording);
        let data = data::data(scene, &self.recording, &self.heard, scale);
        let body = [
            sections::head(self),
            sections::map(&picture.map_inline(), &live, self.until),
            sections::timeline(&chart_inline(&timeline, CHART)),
            sections::expectations(&self.outcomes, &self.failures, &self.lines),
            sections::findings(&self.findings),
            sections::coverage(&self.coverage),
            sections::events(self.loaded, &self.recording.entries),
            sections::legend(),
        ];
        Page {
            title: &format!("{}: report", scene.title()),
            style: STYLE,
            body: &body.concat(),
            data: &data,
            script: SCRIPT,
        }
        .html()
    }

    /// How many events happened.
    pub(crate) fn events(&self) -> usize {
        self.recording.entries.iter().filter_map(Entry::event).count()
    }
}

/// A play of the scene, with its tape if it has one.
fn begin(loaded: &Loaded) -> Play {
    match &loaded.playtest {
        Some(playtest) => playtest.play(),
        None => loaded.play(),
    }
}
