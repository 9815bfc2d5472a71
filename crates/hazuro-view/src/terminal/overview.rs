//! All of a scene at once.

use crate::figures::figures;
use crate::theme::Mark;
use crate::view::{View, Window};

use super::console::Console;
use super::map::Viewport;

/// The viewport over everything.
pub(super) fn whole(console: &Console, view: View) -> Viewport {
    let firings = console.firings();
    let all = figures(console.play(), &firings);
    let counts = |mark: Mark| !matches!(mark, Mark::Sight | Mark::Offer | Mark::Ground);
    let window = all
        .iter()
        .filter(|figure| counts(figure.mark))
        .fold(Window::EMPTY, |all, figure| all.join(figure.window(view)));
    Viewport::over(view, &at_least(window), console.area)
}

/// How much is shown of a scene at first.
fn at_least(window: Window) -> Window {
    if window.is_empty() { Window::around([0.0; 2], [20.0; 2]) } else { window.grown(1.0) }
}
