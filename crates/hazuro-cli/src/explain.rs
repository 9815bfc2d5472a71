//! `hazuro check --explain`: where each value of an entity comes from.

use std::path::{Path, PathBuf};

use hazuro::scene::Kind;
use hazuro::{EntityId, Scene};
use hazuro_format::{FileAccess, Finding, Origin, Source, Spans, origins};
use hazuro_verify::load_with;

use crate::Ending;
use crate::files::access_of;
use crate::output::{report, say};

/// How much of a value is shown, in characters.
const WIDEST: usize = 48;

/// Prints where the values of entities come from, of each scene.
pub fn explain(paths: &[PathBuf], access: &FileAccess, names: &[String]) -> Ending {
    let mut wrong = Vec::new();
    for path in paths {
        match load_with(path, &access_of(path, paths, access)) {
            Ok(loaded) => {
                for name in names {
                    match loaded.scene.entity_id(name.as_str()) {
                        Ok(entity) => print(&loaded.scene, &loaded.source, entity),
                        Err(fault) => wrong.push(Finding::of_fault(&fault)),
                    }
                }
            }
            Err(findings) => wrong.extend(findings),
        }
    }
    report(&wrong)
}

fn print(scene: &Scene, source: &Source, entity: EntityId) {
    let kinds: Vec<&str> = scene.kinds_of(entity).map(Kind::name).collect();
    let name = scene.name(entity);
    let of = match kinds.as_slice() {
        [] => "no kind".to_owned(),
        [kind] => format!("the kind {kind}"),
        kinds => format!("the kinds {}; the first counts most", kinds.join(", ")),
    };
    say!("{name} is of {of}");
    let all = origins(scene, entity);
    let spans = Spans::of(source);
    let rows: Vec<[String; 4]> = all.iter().map(|it| row(it, source, spans.as_ref())).collect();
    let width = |column: usize| {
        rows.iter().map(|row| row[column].chars().count()).max().unwrap_or_default()
    };
    let [keys, values, givers] = [width(0), width(1), width(2)];
    for [key, value, giver, place] in rows {
        say!("  {key:keys$}  {value:values$}  {giver:givers$}  {place}");
    }
    say!("");
}

/// Key, value, by whom and where; of what is replaced no key, as it is below what replaces it.
fn row(origin: &Origin, source: &Source, spans: Option<&Spans>) -> [String; 4] {
    let Origin { key, value, kind, field, counts } = origin;
    let mut shown: String = value.chars().take(WIDEST).collect();
    if value.chars().count() > WIDEST {
        shown.push('…');
    }
    let giver = kind.as_deref().unwrap_or("itself");
    let key = if *counts { key.clone() } else { String::new() };
    let giver = if *counts { giver.to_owned() } else { format!("instead of {giver}") };
    let place = spans.map_or_else(String::new, |spans| {
        let file = Path::new(source.name()).file_name().unwrap_or_default().to_string_lossy();
        format!("{file}:{}", source.line_and_column(spans.find(field).start).0)
    });
    [key, shown, giver, place]
}
