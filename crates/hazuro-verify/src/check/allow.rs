//! What a scene allows though it looks like a mistake.

use hazuro::scene::nearest;
use hazuro_format::Cure;

use super::Checker;

/// The findings that a scene can allow.
pub(super) const CODES: [&str; 48] = [
    "admits-to-nothing",
    "always-competes",
    "anothers-value",
    "bounds-elsewhere",
    "each-tick",
    "empty-slot",
    "ends-at-feet",
    "ends-elsewhere",
    "ends-others",
    "for-everyone",
    "height-of-centre",
    "hides-only",
    "hits-itself",
    "lacks-slot",
    "missing-language",
    "missing-text",
    "never-given",
    "never-happens",
    "never-left-home",
    "never-met",
    "never-over",
    "never-set-off",
    "never-written",
    "no-camera",
    "no-margin",
    "nobody-yet",
    "off-for-good",
    "once-per-part",
    "out-of-reach",
    "passed-over",
    "replaced-for-good",
    "restores-a-number",
    "same-spot",
    "sets-itself-off",
    "smaller-than-view",
    "starts-inside",
    "takes-nobody",
    "teleports-in-place",
    "teleports-into-solid",
    "teleports-into-zone",
    "tested-too-early",
    "too-late",
    "twice-the-same",
    "unheard-inside",
    "unsent-cue",
    "unused-slot",
    "unread-stat",
    "used-up",
];

/// Leaves out what is allowed, and looks at the allowances themselves.
pub(super) fn settle(checker: &mut Checker<'_>) {
    for allowance in checker.scene.allowances() {
        let before = checker.found.len();
        checker.found.retain(|(field, finding)| {
            finding.code() != allowance.finding || !field.is_within(&allowance.field)
        });
        let field = if allowance.field.steps().is_empty() {
            allowance.field.key("scene")
        } else {
            allowance.field.clone()
        };
        let field = field.key("allow").key(&allowance.finding);
        let code = &allowance.finding;
        if allowance.because.trim().is_empty() {
            let message = format!("`{code}` is allowed without a reason");
            let help = format!("say why: allow = {{ {code} = \"...\" }}");
            checker.warn(&field, "no-reason", message, help);
        } else if before == checker.found.len() {
            let message = format!("there is no `{code}` here to allow");
            let nearest = nearest(code, CODES).filter(|nearest| nearest != code);
            let help = match &nearest {
                Some(nearest) => Cure::meant(code, nearest),
                None => "take it away".into(),
            };
            checker.hint(&field, "nothing-to-allow", message, help);
            checker.cure(|file| {
                Some(vec![match &nearest {
                    Some(nearest) => file.rename(&field, nearest)?,
                    None => file.remove(&field)?,
                }])
            });
        }
    }
}
