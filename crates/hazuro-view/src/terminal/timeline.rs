//! A timeline in the cells of a terminal.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

use hazuro::Time;

use crate::theme::Mark;
use crate::timeline::{Row, Timeline};

use super::text::{faint, of, plain, write};

/// Draws as many rows as there is room for: those in which something happened last come first if
/// there are more.
pub(super) fn draw(timeline: &Timeline, buffer: &mut Buffer, area: Rect) {
    if area.height < 2 || area.width < 20 {
        return;
    }
    let names = (area.width / 3).min(24);
    let wide = area.width - names - 1;
    let seconds = timeline.until.secs().max(1e-3);
    let at = |time: Time| {
        let part = (time.secs() / seconds).clamp(0.0, 1.0);
        area.x + names + 1 + (part * f64::from(wide - 1)).round() as u16
    };
    let room = usize::from(area.height - 1);
    let mut rows: Vec<&Row> = timeline.rows.iter().collect();
    if rows.len() > room {
        let last = |row: &Row| {
            let spans = row.spans.iter().map(|span| span.until.unwrap_or(Time::MAX));
            spans.chain(row.ticks.iter().map(|tick| tick.time)).max()
        };
        let mut times: Vec<Option<Time>> = rows.iter().map(|row| last(row)).collect();
        times.sort_unstable_by(|one, other| other.cmp(one));
        let least = times[room - 1];
        rows.retain(|row| last(row) >= least);
        rows.truncate(room);
    }
    for (index, row) in rows.iter().enumerate() {
        let line = index as u16;
        let name = Rect { width: names, ..area };
        write(buffer, name, line, &format!("{} {}", row.name, row.sort), plain());
        let y = area.y + line;
        for span in &row.spans {
            let (sign, style) = match span.mark {
                Mark::Cooldown => ("▁", faint()),
                Mark::Effect => ("▬", of(Mark::Effect)),
                mark => ("━", of(mark)),
            };
            for x in at(span.from)..=at(span.until.unwrap_or(Time::MAX)) {
                let cell = buffer.cell_mut((x, y));
                if let Some(cell) = cell.filter(|cell| sign != "▁" || cell.symbol() == " ") {
                    cell.set_symbol(sign).set_style(style);
                }
            }
        }
        for tick in &row.ticks {
            if let Some(cell) = buffer.cell_mut((at(tick.time), y)) {
                let sign = if tick.mark == Mark::Event { '◆' } else { tick.mark.sign() };
                cell.set_char(sign).set_style(of(tick.mark));
            }
        }
    }
    let axis = format!("{:>width$} 0 s", "", width = usize::from(names));
    write(buffer, area, area.height - 1, &axis, faint());
    let end = format!("{seconds:.1} s");
    let right = Rect { x: area.x + area.width - end.len() as u16, width: end.len() as u16, ..area };
    write(buffer, right, area.height - 1, &end, faint());
}
