//! A match on the screen: the scene or the position, a seat's values, the person's keys.

use inkpot_core::Thoughts;
use ratatui::Frame;
use ratatui::layout::{Constraint, Layout, Rect};
use ratatui::style::{Color, Modifier, Style};
use ratatui::text::{Line, Span};
use ratatui::widgets::{Block, Borders, Paragraph, Wrap};
use serde_json::Value;

use super::{Decided, Live, State};
use crate::show::format::{plain, significant};
use crate::show::thoughts::{action, line, says, value};
use crate::terminal::{marker, scene::Drawn};

/// A screen this wide has room beside the scene, of this many columns.
const WIDE: u16 = 104;
const ASIDE: u16 = 44;
/// A screen this high has room under it, of this many lines.
const HIGH: u16 = 20;
const UNDER: u16 = 7;
/// Letters of a long option.
const LONG: usize = 12;
/// Lines of keys at most.
const MOST_KEYS: u16 = 3;

/// Draws it.
pub(super) fn draw(live: &Live, frame: &mut Frame) {
    let area = frame.area();
    let keys = keys(live);
    let width = keys.iter().map(Span::width).sum::<usize>() as u16;
    let lines = width.div_ceil(area.width.max(1)).clamp(1, MOST_KEYS);
    let rows = [Constraint::Length(1), Constraint::Min(3), Constraint::Length(1), Constraint::Length(lines)];
    let [head, middle, message, below] = Layout::vertical(rows).areas(area);
    frame.render_widget(Paragraph::new(headline(live)), head);
    let panel = panel(live);
    if panel.is_empty() {
        scene(live, frame, middle);
    } else if middle.width >= WIDE {
        let [main, aside] = Layout::horizontal([Constraint::Min(40), Constraint::Length(ASIDE)]).areas(middle);
        scene(live, frame, main);
        frame.render_widget(Paragraph::new(panel).block(Block::new().borders(Borders::LEFT)), aside);
    } else if middle.height >= HIGH {
        let [main, under] = Layout::vertical([Constraint::Min(8), Constraint::Length(UNDER)]).areas(middle);
        scene(live, frame, main);
        frame.render_widget(Paragraph::new(panel).block(Block::new().borders(Borders::TOP)), under);
    } else {
        let share = [Constraint::Percentage(55), Constraint::Percentage(45)];
        let [main, under] = Layout::vertical(share).areas(middle);
        scene(live, frame, main);
        frame.render_widget(Paragraph::new(panel), under);
    }
    frame.render_widget(Paragraph::new(said(live)), message);
    frame.render_widget(Paragraph::new(Line::from(keys)).wrap(Wrap { trim: true }), below);
}

fn bold() -> Style {
    Style::new().add_modifier(Modifier::BOLD)
}

/// A colour, where there are colours.
fn ink(live: &Live, color: Color) -> Style {
    if live.about.color { Style::new().fg(color) } else { Style::new() }
}

/// Writes the time, the score and the speed.
fn headline(live: &Live) -> Line<'static> {
    let tick = live.held.tick();
    let when = match live.about.rate {
        Some(rate) => format!("{:.1} s", tick as f64 / rate),
        None => format!("turn {tick}"),
    };
    let mut spans = vec![Span::styled(when, bold()), Span::raw("  ")];
    let seats = live.about.names.iter().zip(live.held.scores()).enumerate();
    for (seat, (name, score)) in seats {
        let color = [Color::LightBlue, Color::Yellow, Color::LightGreen, Color::LightMagenta][seat % 4];
        spans.push(Span::styled(format!("{name} {}", plain((score * 100.0).round() / 100.0)), ink(live, color)));
        spans.push(Span::raw("  "));
    }
    let state = match live.state {
        State::Over => "over".to_string(),
        State::Paused => "paused".to_string(),
        State::NotBegun => "not begun".to_string(),
        State::GoesOn if live.hand.is_some() && live.about.rate.is_none() => String::new(),
        State::GoesOn if live.about.rate.is_none() => format!("{} turns a second", significant(live.pace, 2)),
        State::GoesOn if live.pace == 1.0 => String::new(),
        State::GoesOn => format!("{} times its pace", significant(live.pace, 2)),
    };
    spans.push(Span::raw(state));
    spans.push(Span::raw("  "));
    spans.push(Span::styled(live.about.title.clone(), ink(live, Color::DarkGray)));
    Line::from(spans)
}

/// The scene, or the position as text.
fn scene(live: &Live, frame: &mut Frame, area: Rect) {
    let Some(scene) = live.held.scene() else {
        let text = live.held.note().unwrap_or_else(|| "this game draws no picture of its states".into());
        frame.render_widget(Paragraph::new(text).wrap(Wrap { trim: true }), area);
        return;
    };
    let by_turns = live.about.rate.is_none();
    // What an adviser believes in real time is its own: the person is shown what the game shows to the seat alone.
    let hand_seat = live.hand.as_ref().filter(|_| by_turns && live.awaits()).map(|hand| hand.seat);
    let over = hand_seat.or(live.shown).map(|seat| live.held.perceived(seat)).unwrap_or_default();
    Drawn { color: live.about.color, marker: marker() }.draw(frame, area, &scene, &over);
}

/// Lists a seat's values, or a person's choices.
fn panel(live: &Live) -> Vec<Line<'static>> {
    if let Some(hand) = &live.hand {
        let advice = live.advice.as_ref().filter(|(tick, _)| hand.hints && *tick + 1 >= live.held.tick());
        let advice = advice.map(|(_, thinking)| thinking);
        if hand.bindings.is_empty() {
            return options(live, advice);
        }
        return advice.map(|thinking| weighed("the adviser", thinking)).unwrap_or_default();
    }
    live.shown.map(|seat| weighed(&live.about.names[seat], &live.decided[seat])).unwrap_or_default()
}

/// Lists a person's options, with the adviser's values.
fn options(live: &Live, advice: Option<&Decided>) -> Vec<Line<'static>> {
    let Some(hand) = live.hand.as_ref().filter(|_| live.awaits()) else { return Vec::new() };
    let mut lines = vec![Line::styled(" Your options", bold())];
    let thoughts = advice.and_then(|thinking| thinking.thoughts.as_ref());
    let value_text = |option: &Value| {
        let found = thoughts?.options.iter().find(|weighed| weighed.option == *option)?;
        Some(format!("  worth {}", value(found)))
    };
    for (place, (option, words)) in hand.options.iter().enumerate() {
        let mark = if place == hand.picked { ">" } else { " " };
        let best = advice.is_some_and(|thinking| thinking.choice.as_ref() == Some(option));
        let advised = if best { "  the adviser's choice" } else { "" };
        let text = format!(" {mark} {words}{}{advised}", value_text(option).unwrap_or_default());
        lines.push(Line::styled(text, if place == hand.picked { bold() } else { Style::new() }));
    }
    lines
}

/// Lists an agent's choice and values.
fn weighed(name: &str, thinking: &Decided) -> Vec<Line<'static>> {
    let choice = thinking.choice.as_ref().map_or_else(|| "nothing yet".into(), action);
    let mut lines = vec![Line::styled(format!(" {name} chooses {choice}"), bold())];
    match &thinking.thoughts {
        Some(thoughts) if says(thoughts) => lines.extend(option_lines(thoughts, thinking.choice.as_ref())),
        _ if thinking.choice.is_some() => lines.push(Line::raw(" It does not say what it weighs.")),
        _ => {}
    }
    lines
}

fn option_lines(thoughts: &Thoughts<Value>, choice: Option<&Value>) -> Vec<Line<'static>> {
    let line = |weighed: &inkpot_core::Weighed<Value>| {
        let mark = if choice == Some(&weighed.option) { "*" } else { " " };
        let option = action(&weighed.option);
        // Where an option takes many words, a line of them does not fit.
        let line = if option.chars().count() > LONG { String::new() } else { line(&weighed.line) };
        Line::raw(format!(" {mark} {option}  {}  {line}", value(weighed)))
    };
    thoughts.options.iter().map(line).collect()
}

/// Writes the prompt.
fn said(live: &Live) -> Line<'static> {
    let text = if live.state == State::Over {
        live.about.after.clone()
    } else if live.asked {
        "Leave the match? It will be stored as abandoned. Esc leaves, Enter continues.".into()
    } else if live.state == State::NotBegun {
        "Enter begins the match.".into()
    } else if let Some(hand) = live.hand.as_ref().filter(|hand| hand.bindings.is_empty() && live.awaits()) {
        if let Some(refused) = &hand.refused {
            format!("Your turn: no option here begins with `{refused}`.")
        } else if hand.typed.is_empty() {
            "Your turn: type an option, or pick one with the arrows and press Enter.".into()
        } else {
            format!("Your turn: {}", hand.typed)
        }
    } else {
        String::new()
    };
    Line::styled(text, ink(live, Color::LightRed).add_modifier(Modifier::BOLD))
}

/// The keys, those that hold now set apart.
fn keys(live: &Live) -> Vec<Span<'static>> {
    let Some(hand) = &live.hand else {
        let text = "Space pauses   Right steps   + faster   - slower   t thoughts of the next seat   q leaves";
        return vec![Span::raw(text)];
    };
    let mut spans = Vec::new();
    for (place, label) in hand.bindings.labels() {
        let style = if hand.held == Some(place) { Style::new().add_modifier(Modifier::REVERSED) } else { Style::new() };
        spans.extend([Span::styled(label, style), Span::raw("   ")]);
    }
    if live.about.rate.is_some() {
        spans.push(Span::raw("p pauses   + faster   - slower   "));
    }
    if hand.advised {
        spans.push(Span::raw(if hand.hints { "Tab hides hints   " } else { "Tab shows hints   " }));
    }
    spans.push(Span::raw("Esc leaves"));
    spans
}

#[cfg(test)]
mod tests {
    use inkpot_lab::{Draft, EntrantDraft, resolve};
    use ratatui::Terminal;
    use ratatui::backend::TestBackend;
    use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

    use super::super::keys::Bindings;
    use super::super::{About, Hand, Live};
    use super::*;

    fn drawn(live: &Live, width: u16, height: u16) -> String {
        let mut terminal = Terminal::new(TestBackend::new(width, height)).expect("a terminal in memory");
        terminal.draw(|frame| draw(live, frame)).expect("it is drawn");
        terminal.backend().to_string()
    }

    /// Builds a match of these agents; with a person in the first seat, advised by the named agent.
    fn live(game: &str, agents: [&str; 2], by_hand: bool) -> Live {
        let registry = inkpot_games::registry();
        let entrants = agents.map(|agent| EntrantDraft { agent: agent.into(), ..EntrantDraft::default() }).to_vec();
        let plan = resolve(&Draft { game: game.into(), seed: Some(3), entrants, ..Draft::default() }.into(), &registry);
        let plan = plan.expect("a sound draft");
        let entry = registry.game(game).expect("a house game");
        let stage = entry.stage(&plan.setting(&plan.cells[0])).expect("a stage");
        let hand =
            by_hand.then(|| Hand::new(0, Bindings::of(entry.controls(), None).expect("the controls are sound"), true));
        let about = About {
            title: format!("{game} on {}", plan.ground.level),
            names: agents.map(String::from).to_vec(),
            rate: entry.sheet().ticks_per_second,
            after: "The match is over: q leaves.".into(),
            color: false,
        };
        Live::new(stage.open(inkpot_core::Spot::default()), about, hand, 1.0)
    }

    fn press(live: &mut Live, keys: &[KeyCode]) {
        for key in keys {
            assert_eq!(live.key(KeyEvent::new(*key, KeyModifiers::NONE)), None);
        }
    }

    #[test]
    fn a_match_is_watched_at_any_size() {
        let mut live = live("sowing", ["minimax", "grabber"], false);
        live.show(0);
        for _ in 0..3 {
            live.tick();
        }
        insta::assert_snapshot!("watched_small", drawn(&live, 80, 24));
        insta::assert_snapshot!("watched_tiny", drawn(&live, 40, 12));
        insta::assert_snapshot!("watched_wide", drawn(&live, 120, 24));
    }

    #[test]
    fn a_person_sees_options_and_what_the_adviser_thinks_of_them() {
        let mut live = live("sowing", ["minimax", "grabber"], true);
        insta::assert_snapshot!("options", drawn(&live, 80, 24));
        press(&mut live, &[KeyCode::Tab, KeyCode::Down]);
        let shown = drawn(&live, 80, 24);
        assert!(shown.contains("worth") && shown.contains("the adviser's choice"), "{shown}");
        assert!(!live.tick(), "nothing is chosen yet");
        press(&mut live, &[KeyCode::Enter]);
        assert!(live.tick() && live.held.tick() == 1);
    }

    #[test]
    fn options_are_typed_and_what_fits_none_is_no_choice() {
        let mut live = live("berths", ["minimax", "drifter"], true);
        press(&mut live, &[KeyCode::Char('z')]);
        assert!(!live.tick());
        let option = live.hand.as_ref().and_then(|hand| hand.options.last().cloned()).expect("there are options").1;
        let letters: Vec<KeyCode> = option.chars().map(KeyCode::Char).collect();
        press(&mut live, &letters[..1]);
        assert!(drawn(&live, 80, 24).contains(&format!("Your turn: {}", &option[..1])));
        press(&mut live, &letters[1..]);
        assert!(live.tick());
        assert_eq!(live.decided[0].choice, Some(Value::from(option)));
    }

    #[test]
    fn a_real_time_match_waits_for_its_begin_and_shows_what_holds() {
        let mut live = live("piste", ["godwit", "heron"], true);
        insta::assert_snapshot!("not_begun", drawn(&live, 80, 24));
        press(&mut live, &[KeyCode::Enter, KeyCode::Char('d')]);
        let before = live.held.place(0).expect("a place");
        for _ in 0..30 {
            assert!(live.tick());
        }
        assert!(live.held.place(0).expect("a place")[0] > before[0] + 0.2, "it runs to the right");
        press(&mut live, &[KeyCode::Esc]);
        assert!(drawn(&live, 80, 24).contains("Leave the match?"));
        press(&mut live, &[KeyCode::Enter]);
        assert!(!drawn(&live, 80, 24).contains("Leave the match?"));
    }
}
