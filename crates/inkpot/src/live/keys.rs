//! Keys by their names, and their controls.

use inkpot_core::{Control, nearest};
use ratatui::crossterm::event::KeyCode;

use crate::failure::Failure;

/// Reserved keys while somebody plays, with their meanings.
const TAKEN: [(&str, &str); 6] = [
    ("p", "pauses"),
    ("+", "plays faster"),
    ("-", "plays slower"),
    ("tab", "shows hints"),
    ("enter", "begins"),
    ("esc", "leaves"),
];

/// The controls of a game with the keys that press them.
#[derive(Clone, Debug, Default)]
pub(crate) struct Bindings {
    controls: Vec<(Control, Vec<String>)>,
}

impl Bindings {
    /// The controls with their own keys, and those of `set` in their place (`lunge=l,parry=k`). Errs where it names no
    /// control, or a key that presses something else.
    pub(crate) fn of(controls: &[Control], set: Option<&str>) -> Result<Self, Failure> {
        let bound = |control: &Control| (control.clone(), control.keys.clone());
        let mut bindings = Self { controls: controls.iter().map(bound).collect() };
        for part in set.unwrap_or_default().split(',').filter(|part| !part.trim().is_empty()) {
            bindings.bind(part.trim())?;
        }
        Ok(bindings)
    }

    /// Gives a control another key; the key's former control keeps its others.
    fn bind(&mut self, part: &str) -> Result<(), Failure> {
        let wrong = |what: String, help: String| Failure::wrong(format!("{what} in `--keys {part}`"), help);
        let Some((name, key)) = part.split_once('=') else {
            return Err(wrong("there is no key".into(), "write CONTROL=KEY, as in `lunge=l`".into()));
        };
        let names: Vec<&str> = self.controls.iter().map(|(control, _)| control.name.as_str()).collect();
        let Some(place) = names.iter().position(|other| *other == name) else {
            let known = if names.is_empty() {
                "this game is played by choosing among options".to_string()
            } else {
                let all = names.join(", ");
                match nearest(name, names.iter().copied()) {
                    Some(near) => format!("did you mean `{near}`? Available: {all}"),
                    None => format!("available: {all}"),
                }
            };
            return Err(wrong(format!("there is no control `{name}`"), known));
        };
        if code(key).is_none() {
            let help = "write one character, or left, right, up, down or space".to_string();
            return Err(wrong(format!("`{key}` is not a key"), help));
        }
        if let Some((_, what)) = TAKEN.iter().find(|(taken, _)| *taken == key) {
            return Err(wrong(format!("the key `{key}` {what}"), "choose another key".into()));
        }
        for (_, keys) in &mut self.controls {
            keys.retain(|other| other != key);
        }
        self.controls[place].1 = vec![key.to_string()];
        if let Some((control, _)) = self.controls.iter().find(|(_, keys)| keys.is_empty()) {
            return Err(wrong(format!("`{}` is left without a key", control.name), "give it another".into()));
        }
        Ok(())
    }

    /// Whether there are none.
    pub(crate) fn is_empty(&self) -> bool {
        self.controls.is_empty()
    }

    /// The control that a key presses.
    pub(crate) fn pressed(&self, key: KeyCode) -> Option<usize> {
        self.controls.iter().position(|(_, keys)| keys.iter().any(|word| code(word) == Some(key)))
    }

    /// Whether a control holds until another does.
    pub(crate) fn holds(&self, control: usize) -> bool {
        self.controls[control].0.holds
    }

    /// Each control with its keys, in words.
    pub(crate) fn labels(&self) -> impl Iterator<Item = (usize, String)> + '_ {
        self.controls.iter().enumerate().map(|(place, (control, keys))| {
            let keys = keys.join("/");
            (place, if keys == control.name { keys } else { format!("{keys} {}", control.name) })
        })
    }
}

/// The key of a name.
fn code(name: &str) -> Option<KeyCode> {
    match name {
        "left" => Some(KeyCode::Left),
        "right" => Some(KeyCode::Right),
        "up" => Some(KeyCode::Up),
        "down" => Some(KeyCode::Down),
        "space" => Some(KeyCode::Char(' ')),
        "tab" => Some(KeyCode::Tab),
        "enter" => Some(KeyCode::Enter),
        "esc" => Some(KeyCode::Esc),
        _ => {
            let mut letters = name.chars();
            letters.next().filter(|_| letters.next().is_none()).map(KeyCode::Char)
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn controls() -> [Control; 2] {
        [Control::held("left", "run to the left", &["left", "a"]), Control::tapped("lunge", "lunge", &["space"])]
    }

    #[test]
    fn a_key_that_is_set_presses_its_control_alone() {
        let bindings = Bindings::of(&controls(), Some("lunge=a")).expect("both have a key");
        assert_eq!(bindings.pressed(KeyCode::Char('a')), Some(1));
        assert_eq!(bindings.pressed(KeyCode::Left), Some(0));
        assert_eq!(bindings.pressed(KeyCode::Char(' ')), None);
        let labels: Vec<String> = bindings.labels().map(|(_, label)| label).collect();
        assert_eq!(labels, ["left", "a lunge"]);
    }
}
