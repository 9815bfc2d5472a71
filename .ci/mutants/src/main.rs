//! Writes mutants into a copy of the core: `mutants CRATE COUNT SEED [WITHOUT]`.
//!
//! A mutant is one operator, call or word changed. All of them are compiled at once, each beside what it
//! was, and the variable `HAZURO_MUTANT` of the environment switches one on. So the tests are built once
//! and not once for each. Prints number, file, line and change, separated by tabs. Those that the file
//! WITHOUT lists, a line each without the number, are left out.

use std::collections::BTreeMap;
use std::error::Error;
use std::ops::Range;
use std::path::{Path, PathBuf};
use std::{env, fs};

use proc_macro2::Span;
use syn::spanned::Spanned;
use syn::visit::{self, Visit};
use syn::{Attribute, BinOp, Expr, ExprBinary, ExprLit, ExprMethodCall, ExprUnary, Lit, UnOp};

const ROOMS: [&str; 4] = ["detect", "geometry", "react", "space"];

/// What the core gets besides.
const SWITCH: &str = "
/// Whether this mutant is the one that is tried.
pub(crate) fn mutant(number: u32) -> bool {
    static CHOSEN: std::sync::OnceLock<u32> = std::sync::OnceLock::new();
    let number_of = || std::env::var(\"HAZURO_MUTANT\").ok()?.parse().ok();
    *CHOSEN.get_or_init(|| number_of().unwrap_or(0)) == number
}
";

/// One change: all of the expression, and what comes in its place.
#[derive(Clone)]
struct Mutant {
    file: PathBuf,
    line: usize,
    all: Range<usize>,
    changed: String,
    change: String,
}

impl Mutant {
    /// As it is listed.
    fn row(&self) -> String {
        format!("{}\t{}\t{}", self.file.display(), self.line, self.change)
    }
}

/// Finds what can be changed in a file.
struct Finder<'a> {
    file: &'a Path,
    text: &'a str,
    found: Vec<Mutant>,
}

impl Finder<'_> {
    /// The expression `all` with what stands at `part` replaced.
    fn add(&mut self, all: Span, part: Span, with: &str) {
        let (all, part) = (all.byte_range(), part.byte_range());
        let text = |range: Range<usize>| &self.text[range];
        let before = text(all.start..part.start);
        let after = text(part.end..all.end);
        let line = 1 + self.text[..part.start].matches('\n').count();
        self.found.push(Mutant {
            file: self.file.into(),
            line,
            change: format!("`{}` becomes `{with}`", text(part)),
            changed: format!("{before}{with}{after}"),
            all,
        });
    }
}

fn is_test(attributes: &[Attribute]) -> bool {
    let test = |attribute: &Attribute| {
        attribute.path().is_ident("cfg") && {
            let tokens = attribute.meta.require_list().map(|list| list.tokens.to_string());
            tokens.is_ok_and(|tokens| tokens.contains("test"))
        }
    };
    attributes.iter().any(test)
}

impl<'a> Visit<'a> for Finder<'_> {
    fn visit_item_mod(&mut self, module: &'a syn::ItemMod) {
        if !is_test(&module.attrs) {
            visit::visit_item_mod(self, module);
        }
    }

    // What is worked out by the compiler has no switch.
    fn visit_item_const(&mut self, _: &'a syn::ItemConst) {}
    fn visit_item_static(&mut self, _: &'a syn::ItemStatic) {}
    fn visit_impl_item_const(&mut self, _: &'a syn::ImplItemConst) {}
    fn visit_item_fn(&mut self, function: &'a syn::ItemFn) {
        if function.sig.constness.is_none() {
            visit::visit_item_fn(self, function);
        }
    }
    fn visit_impl_item_fn(&mut self, function: &'a syn::ImplItemFn) {
        if function.sig.constness.is_none() {
            visit::visit_impl_item_fn(self, function);
        }
    }
    fn visit_type(&mut self, _: &'a syn::Type) {}
    fn visit_pat(&mut self, _: &'a syn::Pat) {}
    fn visit_expr_repeat(&mut self, repeat: &'a syn::ExprRepeat) {
        self.visit_expr(&repeat.expr);
    }

    fn visit_expr_binary(&mut self, binary: &'a ExprBinary) {
        let has_let = |side: &Expr| matches!(side, Expr::Let(_));
        let with: &[&str] = match binary.op {
            BinOp::Lt(_) => &["<=", ">"],
            BinOp::Le(_) => &["<", ">"],
            BinOp::Gt(_) => &[">=", "<"],
            BinOp::Ge(_) => &[">", "<"],
            BinOp::Eq(_) => &["!="],
            BinOp::Ne(_) => &["=="],
            // A chain with a `let` in it is no expression of its own.
            BinOp::And(_) if !chained(&binary.left) && !has_let(&binary.right) => &["||"],
            BinOp::Or(_) => &["&&"],
            BinOp::Add(_) => &["-"],
            BinOp::Sub(_) => &["+"],
            BinOp::Mul(_) => &["/"],
            BinOp::Div(_) => &["*"],
            _ => &[],
        };
        for with in with {
            self.add(binary.span(), binary.op.span(), with);
        }
        visit::visit_expr_binary(self, binary);
    }

    fn visit_expr_unary(&mut self, unary: &'a ExprUnary) {
        if !matches!(unary.op, UnOp::Deref(_)) {
            self.add(unary.span(), unary.op.span(), "");
        }
        visit::visit_expr_unary(self, unary);
    }

    fn visit_expr_lit(&mut self, literal: &'a ExprLit) {
        if let Lit::Bool(word) = &literal.lit {
            let with = if word.value { "false" } else { "true" };
            self.add(literal.span(), literal.span(), with);
        }
    }

    fn visit_expr_method_call(&mut self, call: &'a ExprMethodCall) {
        let with = match call.method.to_string().as_str() {
            "min" => "max",
            "max" => "min",
            "any" => "all",
            "all" => "any",
            _ => "",
        };
        if !with.is_empty() && !call.args.is_empty() {
            self.add(call.span(), call.method.span(), with);
        }
        visit::visit_expr_method_call(self, call);
    }
}

/// Whether a `let` stands in a chain of conditions.
fn chained(expression: &Expr) -> bool {
    match expression {
        Expr::Let(_) => true,
        Expr::Binary(binary) => chained(&binary.left) || chained(&binary.right),
        _ => false,
    }
}

fn sources(folder: &Path, into: &mut Vec<PathBuf>) -> Result<(), Box<dyn Error>> {
    for entry in fs::read_dir(folder)? {
        let path = entry?.path();
        if path.is_dir() {
            sources(&path, into)?;
        } else if path.extension().is_some_and(|it| it == "rs") && !path.ends_with("tests.rs") {
            into.push(path);
        }
    }
    into.sort();
    Ok(())
}

fn main() -> Result<(), Box<dyn Error>> {
    let arguments: Vec<String> = env::args().skip(1).collect();
    let (folder, count, seed, without) = match arguments.as_slice() {
        [folder, count, seed] => (folder, count, seed, String::new()),
        [folder, count, seed, without] => (folder, count, seed, fs::read_to_string(without)?),
        _ => return Err("usage: mutants CRATE COUNT SEED [WITHOUT]".into()),
    };
    let (folder, count, mut seed) = (Path::new(folder), count.parse()?, seed.parse::<u64>()?);
    let mut files = Vec::new();
    for room in ROOMS {
        sources(&folder.join("src").join(room), &mut files)?;
    }
    let texts = files.iter().map(fs::read_to_string).collect::<Result<Vec<_>, _>>()?;
    let mut all = Vec::new();
    for (file, text) in files.iter().zip(&texts) {
        let mut finder = Finder { file, text, found: Vec::new() };
        finder.visit_file(&syn::parse_file(text)?);
        all.append(&mut finder.found);
    }
    // By chance, which the seed alone decides: SplitMix64, S. Vigna, 2015.
    let mut chance = || {
        seed = seed.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mixed = (seed ^ (seed >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        let mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        mixed ^ (mixed >> 31)
    };
    let mut chosen: BTreeMap<(PathBuf, usize), Mutant> = BTreeMap::new();
    while chosen.len() < count && !all.is_empty() {
        let index = (chance() % all.len() as u64) as usize;
        let mutant = all.swap_remove(index);
        // None lies in another.
        let apart = |other: &Mutant| {
            other.file != mutant.file
                || other.all.end <= mutant.all.start
                || mutant.all.end <= other.all.start
        };
        let is_wanted = !without.lines().any(|row| row == mutant.row());
        if is_wanted && chosen.values().all(apart) {
            chosen.insert((mutant.file.clone(), mutant.all.start), mutant);
        }
    }
    let mut written: BTreeMap<&Path, String> = BTreeMap::new();
    for (file, text) in files.iter().zip(texts) {
        written.insert(file, text);
    }
    // From the end of each file, so that the places before stay.
    for (number, mutant) in chosen.values().enumerate().rev() {
        let text = written.get_mut(mutant.file.as_path()).ok_or("a file")?;
        let (number, was) = (number + 1, text[mutant.all.clone()].to_owned());
        let both =
            format!("(if crate::mutant({number}) {{ {} }} else {{ {was} }})", mutant.changed);
        text.replace_range(mutant.all.clone(), &both);
        println!("{number}\t{}", mutant.row());
    }
    for (file, text) in written {
        fs::write(file, text)?;
    }
    let root = folder.join("src/lib.rs");
    fs::write(&root, fs::read_to_string(&root)? + SWITCH)?;
    Ok(())
}
