//! Kinds that are for what is not there.

use hazuro_format::Code;

use super::Checker;

pub(super) fn check(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    for kind in scene.kinds().iter().filter(|kind| !kind.taken().is_empty()) {
        if scene.ids().any(|id| scene.is_of_kind(id, kind.name())) {
            continue;
        }
        let whom: Vec<String> = kind.taken().iter().map(|it| format!("`{it}`")).collect();
        let (name, whom) = (kind.name(), whom.join(" and "));
        let message = format!("nothing is of the kind `{name}`, which is for {whom}");
        let help =
            "a star stands for any letters; tags count that an entity or a kind it names has";
        checker.warn(&kind.field().key("for"), Code::TakesNobody, message, help);
    }
}
