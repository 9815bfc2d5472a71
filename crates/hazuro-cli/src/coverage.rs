//! The table of what playtests have tried.

use hazuro_verify::{CoverageTable, DetectorRow, ReactionRow};

use crate::output::{coloured, paint, say};

/// Prints what has been tried, what nearly, and what not at all.
pub fn print(table: &CoverageTable) {
    let colour = coloured(&std::io::stdout());
    say!("");
    say!("{}", paint(colour, "1", &format!("Tried of {}", table.scene)));
    let longest = |texts: &mut dyn Iterator<Item = usize>| texts.max().unwrap_or(0).min(40);
    let on = longest(&mut table.detectors.iter().map(|row| row.on.chars().count()));
    for row in &table.detectors {
        let (sign, code) = match row {
            DetectorRow { fired: 1.., .. } => ("✓", "32"),
            DetectorRow { nearly: Some(_), .. } => ("~", "33"),
            _ => ("✗", "31"),
        };
        let told = match &row.nearly {
            _ if row.fired > 0 => {
                let by: Vec<String> =
                    row.by.iter().map(|(kind, times)| format!("{kind} {times}")).collect();
                format!("{}  {}", times(row.fired), by.join(", "))
            }
            Some(miss) => format!("nearly      at {:.3} s: {}", miss.t, miss.line()),
            None => "never approached".into(),
        };
        let (name, detector) = (&row.on, row.detector);
        say!("  {} {name:<on$}  {detector:<8}  {}", paint(colour, code, sign), told.trim_end());
    }
    say!("");
    for row in &table.reactions {
        print_reaction(row, colour);
    }
    let total = &table.total;
    let shares = [
        ("detectors fired", total.detectors),
        ("reactions ran", total.reactions),
        ("outcomes of conditions", total.conditions),
        ("actions done", total.actions),
        ("in all", total.sum()),
    ];
    say!("");
    for (what, share) in shares {
        let percent = (share.done * 100).checked_div(share.all).unwrap_or(100);
        say!("  {percent:>3} %  {} of {} {what}", share.done, share.all);
    }
}

/// How often, in a column.
fn times(number: u64) -> String {
    format!("{number:>4} time{}", if number == 1 { " " } else { "s" })
}

fn print_reaction(row: &ReactionRow, colour: bool) {
    let (sign, code) = if row.ran > 0 { ("✓", "32") } else { ("✗", "31") };
    let mut told = vec![times(row.ran).trim().to_owned()];
    if let Some((held, failed)) = row.condition {
        told.push(format!("condition held {held}, did not {failed}"));
    }
    let undone: Vec<&str> = row
        .actions
        .iter()
        .filter(|(_, done, _)| row.ran > 0 && *done == 0)
        .map(|(word, ..)| *word)
        .collect();
    if !undone.is_empty() {
        told.push(format!("never done: {}", undone.join(", ")));
    }
    say!("  {} {}  {}", paint(colour, code, sign), row.reaction, told.join("; "));
}
