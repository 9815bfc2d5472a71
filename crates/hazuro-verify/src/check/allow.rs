//! What a scene allows though it looks like a mistake.

use hazuro::scene::nearest;
use hazuro_format::{Code, Cure, Stage};

use super::Checker;

/// Leaves out what is allowed, and looks at the allowances themselves.
pub(super) fn settle(checker: &mut Checker<'_>) {
    for allowance in checker.scene.allowances() {
        let before = checker.found.len();
        checker.found.retain(|(field, finding)| {
            finding.code() != *allowance.finding || !field.is_within(&allowance.field)
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
            checker.warn(&field, Code::NoReason, message, help);
        } else if before == checker.found.len() {
            let message = format!("there is no `{code}` here to allow");
            let nearest = nearest(code, allowable()).filter(|nearest| nearest != code);
            let help = match &nearest {
                Some(nearest) => Cure::meant(code, nearest),
                None => "take it away".into(),
            };
            checker.hint(&field, Code::NothingToAllow, message, help);
            checker.cure(|file| {
                Some(vec![match &nearest {
                    Some(nearest) => file.rename(&field, nearest)?,
                    None => file.remove(&field)?,
                }])
            });
        }
    }
}

/// The words of the findings that a scene can allow.
fn allowable() -> impl Iterator<Item = &'static str> {
    let own = [Code::NoReason, Code::NothingToAllow];
    let all =
        Code::ALL.iter().filter(move |code| code.stage() == Stage::Check && !own.contains(code));
    all.map(|code| code.word())
}
