//! Questions: which event, of whom, when.

use hazuro::scene::{Detector, EventKind, Fault, Named, nearest};
use hazuro::{EntityId, Event, Scene, Time};

/// What is asked.
///
/// ```
/// use hazuro_format::Source;
/// use hazuro_script::read_scene;
/// use hazuro_verify::{Question, explain, read_playtest};
/// let scene = Source::new("yard.toml", r#"
/// [[entity]]
/// name = "ball"
/// body = { sphere = { radius = 0.5 } }
///
/// [[entity]]
/// name = "pad"
/// at = [3, 0, 0]
/// zone = { box = [1, 1, 1] }
/// "#);
/// let scene = std::sync::Arc::new(read_scene(&scene).unwrap());
/// let playtest = Source::new("yard.playtest.toml", "scene = \"yard.toml\"\nseconds = 1.0");
/// let playtest = read_playtest(&playtest, scene.clone()).unwrap();
/// let question = Question::new(&scene, "enter", Some("pad"), Some("ball")).unwrap();
/// let answer = explain(&playtest, &question);
/// let miss = answer.candidates[0].miss.as_ref().unwrap();
/// assert_eq!((miss.gate, miss.amount), ("in-shape", Some(2.0)));
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Question {
    /// The event.
    pub event: EventKind,
    /// Its detector.
    pub on: Option<EntityId>,
    /// The name of a cue.
    pub cue: Option<String>,
    /// Its subject; none stands for any.
    pub who: Option<EntityId>,
    /// From when on.
    pub from: Time,
    /// Until when. The default is the whole play.
    pub until: Time,
    /// Ticks a second, if not the scene's.
    pub rate: Option<u32>,
}

impl Question {
    /// About any event of a kind.
    pub(crate) fn of(event: EventKind) -> Self {
        let (on, cue, who, rate) = (None, None, None, None);
        Self { event, on, cue, who, from: Time::ZERO, until: Time::MAX, rate }
    }

    /// About an event of a detector.
    pub(crate) fn about(event: EventKind, on: EntityId) -> Self {
        Self { on: Some(on), ..Self::of(event) }
    }

    /// About an event, by the names in the scene. `on` is the detector, or the name of a cue.
    ///
    /// # Errors
    /// If there is no such event or entity, or the entity has not got that detector.
    pub fn new(
        scene: &Scene,
        event: &str,
        on: Option<&str>,
        who: Option<&str>,
    ) -> Result<Self, Fault> {
        let kind = EventKind::from_word(event).ok_or_else(|| Fault::Unknown {
            what: Named::Event,
            name: event.into(),
            nearest: nearest(event, EventKind::ALL.iter().map(|kind| kind.word())),
        })?;
        let cue = on.filter(|_| kind == EventKind::Cue).map(Into::into);
        let named = on.filter(|_| !matches!(kind, EventKind::Cue | EventKind::Start));
        let on = named.map(|on| scene.entity_id(on)).transpose()?;
        if let (Some(on), Some(detector)) = (on, kind.detector())
            && !scene.has(on, detector)
        {
            let name = scene.name(on).into();
            return Err(Fault::NoDetector { event: kind, detector, name, relative: None });
        }
        let who = who.map(|who| scene.entity_id(who)).transpose()?;
        Ok(Self { on, cue, who, ..Self::of(kind) })
    }

    /// Whether an event is what is asked about.
    pub(super) fn is_met_by(&self, event: &Event) -> bool {
        event.kind == self.event
            && (self.on.is_none() || event.on == self.on)
            && (self.cue.is_none() || event.cue == self.cue)
            && (self.who.is_none() || event.who == self.who)
            && (self.from..=self.until).contains(&event.time)
    }

    /// The detector whose gates decide it. A pickup is collected by whoever comes into its zone.
    pub(super) fn detector(&self) -> Option<Detector> {
        match self.event.detector()? {
            Detector::Pickup => Some(Detector::Zone),
            detector => detector.opens().map(|_| detector),
        }
    }

    /// Whether it takes a player to press or point.
    pub(super) fn is_use(&self) -> bool {
        use EventKind as Kind;
        matches!(
            self.event,
            Kind::Accept
                | Kind::Interact
                | Kind::Hold
                | Kind::Cancel
                | Kind::Refused
                | Kind::PointerDown
                | Kind::PointerUp
                | Kind::Click
                | Kind::Miss
                | Kind::Drag
        )
    }

    /// What is asked, in words.
    pub(super) fn words(&self, scene: &Scene) -> String {
        let on = self.on.map(|on| scene.name(on)).or(self.cue.as_deref());
        let on = on.map_or(String::new(), |on| format!(" {on}"));
        let who = self.who.map_or(String::new(), |who| format!(" by {}", scene.name(who)));
        format!("{}{on}{who}", self.event)
    }
}
