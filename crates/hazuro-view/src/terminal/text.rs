//! How texts look, and how they are written.

use hazuro::shown;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::{Modifier, Style};

use crate::theme::{DARK, Mark};

use super::canvas::rgb;

/// The look of texts: plain, faint, and set apart.
pub(super) fn plain() -> Style {
    Style::new().fg(rgb(DARK.ink))
}

pub(super) fn faint() -> Style {
    Style::new().fg(rgb(DARK.faint))
}

pub(super) fn strong() -> Style {
    plain().add_modifier(Modifier::BOLD)
}

pub(super) fn of(mark: Mark) -> Style {
    Style::new().fg(rgb(DARK.of(mark)))
}

/// Writes a line, cut to the width there is.
pub(super) fn write(buffer: &mut Buffer, area: Rect, row: u16, text: &str, style: Style) {
    if row < area.height {
        buffer.set_stringn(area.x, area.y + row, shown(text), usize::from(area.width), style);
    }
}
