//! The tree of an expression or a script: its nodes, calls, texts and what is asked of what.

use rhai::{AST, ASTNode, Expr, ParseErrorType, Position, Stmt};

/// What is wrong with a text that cannot be taken apart, at this word.
pub(crate) fn misread(error: &ParseErrorType, word: &str) -> String {
    let named = match error {
        ParseErrorType::PropertyExpected | ParseErrorType::VariableExpected => !word.is_empty(),
        ParseErrorType::Reserved(_) => true,
        _ => false,
    };
    if named && word.chars().all(|letter| letter.is_alphanumeric() || letter == '_') {
        return format!("`{word}` is a word of the language, and cannot be a name");
    }
    error.to_string()
}

/// Shows each node.
pub(crate) fn each_node(tree: &AST, see: &mut dyn FnMut(&ASTNode<'_>)) {
    tree.walk(&mut |nodes: &[ASTNode<'_>]| {
        nodes.last().into_iter().for_each(&mut *see);
        true
    });
}

/// The name and the arguments of a call.
pub(crate) fn call<'a>(node: &'a ASTNode<'_>) -> Option<(&'a str, &'a [Expr])> {
    let (ASTNode::Expr(Expr::FnCall(call, _)) | ASTNode::Stmt(Stmt::FnCall(call, _))) = node else {
        return None;
    };
    Some((call.name.as_str(), &call.args))
}

/// A text that stands there, and where.
pub(crate) fn text_of(expression: &Expr) -> Option<(&str, Position)> {
    match expression {
        Expr::StringConstant(text, position) => Some((text.as_str(), *position)),
        _ => None,
    }
}

/// The properties that are asked one of another, from the first on.
pub(crate) fn chain(asked: &Expr) -> Vec<(&str, Position)> {
    match asked {
        Expr::Property(property, position) => vec![(property.2.as_str(), *position)],
        Expr::Dot(pair, ..) => {
            let mut all = chain(&pair.lhs);
            // Whatever is called or looked up in between ends what can be followed.
            if all.len() == 1 {
                all.extend(chain(&pair.rhs));
            }
            all
        }
        Expr::Index(pair, ..) => {
            let mut all = chain(&pair.lhs);
            if all.len() == 1 {
                all.extend(text_of(&pair.rhs));
            }
            all
        }
        _ => Vec::new(),
    }
}
