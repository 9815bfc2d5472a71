//! From the keys of a reaction to its description.

use hazuro::scene::{Action, Again, Field, Per, Reaction, Selector, Trigger};

use crate::action::{ActionKeys, BadAction, read_action};
use crate::code::Code;
use crate::cure::Cure;
use crate::keys::one_or_many::{Names, OneOrMany};
use crate::keys::reaction::{ReactionKeys, TriggerKeys};
use crate::read::reader::Reader;

impl Reader<'_> {
    pub(crate) fn reaction(&mut self, keys: &ReactionKeys, field: &Field) -> Option<Reaction> {
        let triggers = self.triggers(&keys.on, &field.key("on"));
        let reported = self.findings.len();
        let first = triggers.first().cloned();
        let mut reaction = Reaction::on(first.clone().unwrap_or(Trigger::Start))
            .cooldown(keys.cooldown.unwrap_or_default())
            .order(keys.order.unwrap_or_default());
        reaction = triggers.into_iter().skip(1).fold(reaction, Reaction::or);
        if let Some(name) = &keys.name {
            reaction = reaction.named(name);
        }
        if let Some(name) = &keys.instead_of {
            reaction = reaction.instead_of(name);
        }
        if let Some(condition) = self.condition(keys.condition.as_ref(), &field.key("if")) {
            reaction = reaction.when(condition);
        }
        if let Some(condition) = self.condition(keys.until_if.as_ref(), &field.key("until_if")) {
            reaction = reaction.until_holds(condition);
        }
        if let Some(until) = &keys.until {
            let until = self.triggers(until, &field.key("until"));
            reaction = until.into_iter().fold(reaction, Reaction::until);
        }
        reaction = self.how_often(reaction, keys, field);
        reaction = self.sequences(reaction, keys, field);
        let whole = first.is_some() || self.findings.len() > reported;
        whole.then_some(reaction).filter(|_| first.is_some())
    }

    fn how_often(
        &mut self,
        mut reaction: Reaction,
        keys: &ReactionKeys,
        field: &Field,
    ) -> Reaction {
        if let Some(seconds) = self.quantity(keys.after.as_ref(), &field.key("after")) {
            reaction = reaction.after(seconds);
        }
        if let Some(seconds) = self.quantity(keys.every.as_ref(), &field.key("every")) {
            reaction = reaction.every(seconds);
        }
        if let Some(times) = keys.times {
            reaction = reaction.times(times);
        }
        for (key, there) in [
            ("times", keys.times.is_some() && keys.every.is_none()),
            ("else", !keys.otherwise.is_empty() && keys.condition.is_none()),
        ] {
            if there {
                let partner = if key == "times" { "every" } else { "if" };
                let message = format!("`{key}` goes with `{partner}`, which is missing");
                self.error(&field.key(key), Code::NoPartner, &message, "add it, or take this away");
            }
        }
        if let Some(limit) = keys.limit {
            reaction = reaction.limit(limit);
        }
        if keys.once == Some(true) {
            reaction = reaction.once();
        }
        if let Some(word) = &keys.per {
            let per = self.one_of(word, Per::ALL, Per::word, &field.key("per"));
            reaction = per.into_iter().fold(reaction, Reaction::per);
        }
        if keys.pass_on == Some(true) {
            reaction = reaction.pass_on();
        }
        if let Some(word) = &keys.again {
            if let Some(again) = Again::ALL.into_iter().find(|again| again.word() == word) {
                reaction = reaction.again(again);
            } else {
                let words = Again::ALL.map(Again::word);
                self.unknown_word(&field.key("again"), word, &words);
            }
        }
        reaction
    }

    fn sequences(
        &mut self,
        mut reaction: Reaction,
        keys: &ReactionKeys,
        field: &Field,
    ) -> Reaction {
        let done = field.key("do");
        if keys.actions.is_empty() {
            let help = "add an action, as in do = [{ say = \"hello\" }]";
            self.error(&done, Code::DoesNothing, "this reaction does nothing", help);
        }
        let lists = keys.actions.iter().filter(|item| item.is_list()).count();
        if lists > 0 && lists < keys.actions.len() {
            let message = "here actions stand beside lists of actions";
            let help = "put each sequence into a list of its own: do = [[...], [...]]";
            self.error(&done, Code::MixedSequences, message, help);
        }
        for (number, item) in keys.actions.iter().enumerate() {
            if lists > 0 && number > 0 {
                reaction = reaction.meanwhile();
            }
            for (place, action) in item.all().iter().enumerate() {
                let at = done.item(number);
                let at = if item.is_list() { at.item(place) } else { at };
                reaction = reaction.then(self.action(action, &at));
            }
        }
        for (place, action) in keys.otherwise.iter().enumerate() {
            let action = self.action(action, &field.key("else").item(place));
            reaction = reaction.otherwise(action);
        }
        reaction
    }

    /// An action. Where it cannot be read, one that keeps the numbers of those after it in step
    /// with the file.
    fn action(&mut self, keys: &ActionKeys, field: &Field) -> Action {
        let action = match read_action(keys, self.formulas()) {
            Ok(action) => action,
            Err(all) => {
                for bad in all {
                    let field = if bad.key.is_empty() { field.clone() } else { field.key(bad.key) };
                    match bad.formula {
                        Some(formula) => self.bad_expression(&formula.1, &formula.0, &field),
                        None => self.error(&field, bad.code, &bad.message, bad.help),
                    }
                }
                return Action::set("nothing", 0);
            }
        };
        if let Action::Call(name) = &action
            && !self.provided.functions.contains(name)
        {
            let known = self.provided.functions.iter().map(String::as_str);
            let help = Cure::nearest(name, known, || match self.provided.functions.as_slice() {
                [] => "write it in a script: [scene] scripts = [\"...\"]".into(),
                all => format!("there are {}", all.join(", ")),
            });
            let message = format!("there is no function named `{name}` to call");
            self.error(&field.key("call"), Code::UnknownName, &message, help);
        }
        action
    }

    fn triggers(&mut self, keys: &OneOrMany<TriggerKeys>, field: &Field) -> Vec<Trigger> {
        let all = keys.all();
        if all.is_empty() {
            self.no_event(field, "no event is named here");
        }
        let mut triggers = Vec::new();
        for (index, one) in all.iter().enumerate() {
            let field = if keys.is_list() { field.item(index) } else { field.clone() };
            triggers.extend(self.trigger(one, &field));
        }
        triggers
    }

    fn no_event(&mut self, field: &Field, message: &str) {
        self.error(field, Code::OneEvent, message, EVENTS);
    }

    /// The triggers of a table: one for each detector it names.
    fn trigger(&mut self, keys: &TriggerKeys, field: &Field) -> Vec<Trigger> {
        read_trigger(keys).unwrap_or_else(|bad| {
            let field = if bad.key.is_empty() { field.clone() } else { field.key(bad.key) };
            self.error(&field, bad.code, &bad.message, bad.help);
            Vec::new()
        })
    }
}

/// What one can wait for.
const EVENTS: &str = "give one of: start, enter, exit, inside, touch, untouch, hover, click, \
                      offer, accept, interact, hit, clear, land, lift_off, spot, lose, retarget, \
                      collect, respawn, stat, empty, full, cue and so on";

/// Reads what is waited for: one event of one or several detectors.
///
/// # Errors
/// What is wrong with it.
pub(crate) fn read_trigger(keys: &TriggerKeys) -> Result<Vec<Trigger>, BadAction> {
    let TriggerKeys { start, cue, of, who, first, last, .. } = keys;
    let bad = |key, code, message: &str, help: Cure| {
        Err(BadAction { key, code, message: message.into(), help, formula: None })
    };
    let edge = first.or(*last).unwrap_or_default();
    let whom = |names: &Names| -> Vec<Selector> {
        names.all().iter().map(|name| Selector::from(name.as_str())).collect()
    };
    let subjects = who.as_ref().map_or(vec![None], |who| whom(who).into_iter().map(Some).collect());
    let detected = keys.events().map(|(event, names)| {
        let pairs = whom(names)
            .into_iter()
            .flat_map(|on| subjects.iter().map(move |who| (on.clone(), who)));
        let trigger = |(on, who): (Selector, &Option<Selector>)| Trigger::Detected {
            event,
            on,
            edge,
            of: of.clone(),
            who: who.clone(),
        };
        pairs.map(trigger).collect()
    });
    let others = [start.map(|_| Trigger::Start), cue.as_ref().map(Trigger::cue)];
    let others = others.into_iter().flatten().map(|trigger| vec![trigger]);
    let given: Vec<Vec<Trigger>> = detected.chain(others).collect();
    let [triggers] = given.as_slice() else {
        let message = if given.is_empty() {
            "no event is named here"
        } else {
            "one event too many: several events are a list of tables"
        };
        return bad("", Code::OneEvent, message, EVENTS.into());
    };
    let Some(event) = triggers.first().map(Trigger::event) else {
        return bad("", Code::OneEvent, "no detector is named here", EVENTS.into());
    };
    if *start == Some(false) {
        return bad(
            "start",
            Code::OneEvent,
            "`start = false` waits for nothing",
            "write start = true".into(),
        );
    }
    if who.is_some() && event.detector().is_none() {
        let message = "`who` goes with an event that has a detector and a subject, as `enter`";
        return bad("who", Code::NoPartner, message, "test it in `if` instead".into());
    }
    if first.is_some() && !event.is_opening() {
        let message = "`first` goes with an event that begins a detection, as `enter`";
        return bad("first", Code::NoPartner, message, Cure::meant("first", "last"));
    }
    if last.is_some() && !event.is_closing() {
        let message = "`last` goes with an event that ends a detection, as `exit`";
        return bad("last", Code::NoPartner, message, Cure::meant("last", "first"));
    }
    Ok(triggers.clone())
}
