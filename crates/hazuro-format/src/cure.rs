//! What would cure a fault, in the words of files.

use hazuro::scene::{Detector, Fault, Named, Need};

/// What would cure a fault, as it is written in a file where that differs from what a program would
/// do; none if nothing can be said.
///
/// ```
/// use hazuro::{Scene, Play, scene::Entity};
/// let play = Play::new(Scene::builder("Yard").entity(Entity::new("gate")).build().unwrap());
/// let fault = play.pose("gaet").unwrap_err();
/// assert_eq!(hazuro_format::cure_of(&fault).unwrap(), "did you mean `gate`?");
/// ```
pub fn cure_of(fault: &Fault) -> Option<String> {
    Some(match fault {
        Fault::Unknown { what: Named::Text, name, nearest: None } => {
            format!("add it: [texts] \"{name}\" = \"...\"")
        }
        Fault::NoDetector { detector: Detector::Stats, name, relative: None, .. } => {
            format!("give it one: `{name}` with stats = {{ health = {{ start = 100 }} }}")
        }
        Fault::LooksForNothing => "name one: of = [\"bodies\"]".into(),
        Fault::NoPlayer { .. } => "only players press keys and point: give it player = true".into(),
        Fault::Unable { need: Need::Stock, name, .. } => {
            format!("give it one: [kind.{name}] stock = 10")
        }
        other => return other.cure(),
    })
}
