//! From the keys of a reaction to its description.

use hazuro::motion::Easing;
use hazuro::scene::{Action, Change, Destination, Field, Move, Reaction, Selector, Trigger};

use crate::condition;
use crate::scene_file::{ActionKeys, ReactionKeys, TriggerKeys};
use crate::scene_read::Reader;

impl Reader<'_> {
    pub(crate) fn reaction(&mut self, keys: &ReactionKeys, field: &Field) -> Option<Reaction> {
        let trigger = self.trigger(&keys.on, &field.key("on"));
        let mut reaction = Reaction::on(trigger.clone().unwrap_or(Trigger::Start))
            .after(keys.after.unwrap_or_default())
            .cooldown(keys.cooldown.unwrap_or_default());
        if keys.once == Some(true) {
            reaction = reaction.once();
        }
        if keys.pass_on == Some(true) {
            reaction = reaction.pass_on();
        }
        if let Some(text) = &keys.condition {
            match condition::read(text, &self.counts) {
                Ok(condition) => reaction = reaction.when(condition),
                Err(bad) => self.bad_expression(&field.key("if"), text, &bad),
            }
        }
        if keys.actions.is_empty() {
            let help = "add an action, as in do = [{ say = \"hello\" }]";
            self.error(&field.key("do"), "does-nothing", "this reaction does nothing", help);
        }
        for (index, action) in keys.actions.iter().enumerate() {
            if let Some(action) = self.action(action, &field.key("do").item(index)) {
                reaction = reaction.then(action);
            } else {
                // Keeps the numbers of the actions after it in step with the file.
                reaction = reaction.then(Action::set("nothing", 0));
            }
        }
        trigger.map(|_| reaction)
    }

    fn trigger(&mut self, keys: &TriggerKeys, field: &Field) -> Option<Trigger> {
        let TriggerKeys { start, cue, first, last, .. } = keys;
        let edge = first.or(*last).unwrap_or_default();
        let detected = keys.events().map(|(event, on)| {
            let on = Selector::from(on);
            Trigger::Detected { event, on, edge }
        });
        let others = [start.map(|_| Trigger::Start), cue.as_ref().map(Trigger::cue)];
        let given: Vec<Trigger> = detected.chain(others.into_iter().flatten()).collect();
        let [trigger] = given.as_slice() else {
            let message =
                if given.is_empty() { "no event is named here" } else { "one event too many" };
            let help = "give one of: start, enter, exit, inside, touch, untouch, hover, click, \
                        offer, accept, interact, hit, clear, land, lift_off, spot, lose, retarget, \
                        cue and so on";
            self.error(field, "one-event", message, help);
            return None;
        };
        let event = trigger.event();
        if *start == Some(false) {
            let help = "write start = true";
            self.error(&field.key("start"), "one-event", "`start = false` waits for nothing", help);
        }
        if first.is_some() && !event.is_opening() {
            let message = "`first` goes with an event that begins a detection, as `enter`";
            self.error(&field.key("first"), "no-partner", message, "did you mean `last`?");
        }
        if last.is_some() && !event.is_closing() {
            let message = "`last` goes with an event that ends a detection, as `exit`";
            self.error(&field.key("last"), "no-partner", message, "did you mean `first`?");
        }
        Some(trigger.clone())
    }

    fn action(&mut self, keys: &ActionKeys, field: &Field) -> Option<Action> {
        let verbs = [
            ("move", &keys.moved),
            ("teleport", &keys.teleport),
            ("face", &keys.face),
            ("enable", &keys.enable),
            ("disable", &keys.disable),
            ("toggle", &keys.toggle),
            ("show", &keys.show),
            ("hide", &keys.hide),
            ("count", &keys.count),
            ("say", &keys.say),
            ("cue", &keys.cue),
        ];
        let given: Vec<(&str, &String)> = verbs
            .into_iter()
            .filter_map(|(verb, value)| value.as_ref().map(|value| (verb, value)))
            .collect();
        let [(verb, value)] = given.as_slice() else {
            let message =
                if given.is_empty() { "no action is named here" } else { "one action too many" };
            let help = "give each action its own { ... }: move, teleport, face, enable, disable, toggle, \
                        show, hide, count, say or cue";
            self.error(field, "one-action", message, help);
            return None;
        };
        for (key, there, verbs) in [
            ("to", keys.to.is_some(), &["move", "teleport", "face"][..]),
            ("over", keys.over.is_some(), &["move"]),
            ("ease", keys.ease.is_some(), &["move"]),
            ("add", keys.add.is_some(), &["count"]),
            ("set", keys.set.is_some(), &["count"]),
        ] {
            if there && !verbs.contains(verb) {
                let message = format!("`{key}` does not go with `{verb}`");
                let help = format!("it goes with {}", verbs.join(" and "));
                self.error(&field.key(key), "no-partner", &message, &help);
            }
        }
        let what = (*value).clone();
        Some(match *verb {
            "move" => Action::Move(Move {
                what,
                to: match self.destination(keys, field)?.as_str() {
                    "home" => Destination::Home,
                    "point" => Destination::Point,
                    name => Destination::Entity(name.into()),
                },
                over: keys.over.unwrap_or_default(),
                ease: self.ease(keys.ease.as_deref(), &field.key("ease"))?,
            }),
            "teleport" => Action::Teleport { what, to: self.destination(keys, field)? },
            "face" => Action::Face { what, to: self.destination(keys, field)? },
            "enable" => Action::Enable(what),
            "disable" => Action::Disable(what),
            "toggle" => Action::Toggle(what),
            "show" => Action::Show(what),
            "hide" => Action::Hide(what),
            "count" => {
                let change = match (keys.add, keys.set) {
                    (Some(amount), None) => Change::Add(amount),
                    (None, Some(value)) => Change::Set(value),
                    _ => {
                        let help = "as in { count = \"tokens\", add = 1 }";
                        self.error(
                            field,
                            "one-change",
                            "a count needs either `add` or `set`",
                            help,
                        );
                        return None;
                    }
                };
                Action::Count { name: what, change }
            }
            "say" => Action::Say(what),
            _ => Action::Cue(what),
        })
    }

    fn destination(&mut self, keys: &ActionKeys, field: &Field) -> Option<String> {
        if keys.to.is_none() {
            let help =
                "add `to = \"...\"`: the entity whose place it takes, or \"home\" with `move`";
            self.error(field, "missing-key", "the key `to` is missing here", help);
        }
        keys.to.clone()
    }

    fn ease(&mut self, text: Option<&str>, field: &Field) -> Option<Easing> {
        match text.unwrap_or("linear").parse() {
            Ok(ease) => Some(ease),
            Err(error) => {
                let finding = self.finding(field, "bad-easing", error.to_string());
                self.findings.push(finding);
                None
            }
        }
    }
}
