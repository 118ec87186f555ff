//! A match under way on the screen: the scene or the position, what a seat weighs, what a person can press.

use inkpot_core::Thoughts;
use ratatui::Frame;
use ratatui::layout::{Constraint, Layout, Rect};
use ratatui::style::{Color, Modifier, Style};
use ratatui::text::{Line, Span};
use ratatui::widgets::{Block, Borders, Paragraph, Wrap};
use serde_json::Value;

use super::{Live, Told};
use crate::show::format::{plain, significant};
use crate::show::thoughts::{action, line, value};
use crate::terminal::{marker, scene::Drawn};

/// A screen this wide has room beside the scene, of this many columns.
const WIDE: u16 = 104;
const ASIDE: u16 = 44;
/// A screen this high has room under it, of this many lines.
const HIGH: u16 = 20;
const UNDER: u16 = 7;
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

/// When it is, how it stands, and how fast it goes.
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
    let state = match (live.over, live.paused, live.begun) {
        (true, ..) => "over".to_string(),
        (_, true, _) => "paused".to_string(),
        (_, _, false) => "not begun".to_string(),
        _ if live.hand.is_some() && live.about.rate.is_none() => String::new(),
        _ if live.about.rate.is_none() => format!("{} turns a second", significant(live.pace, 2)),
        _ if live.pace == 1.0 => String::new(),
        _ => format!("{} times its pace", significant(live.pace, 2)),
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
    let own = live.hand.as_ref().filter(|_| by_turns && live.awaits()).map(|hand| live.held.perceived(hand.seat));
    let watched = live.shown.map(|seat| live.told[seat].perceived.clone());
    let over = own.or(watched).unwrap_or_default();
    Drawn { color: live.about.color, marker: marker() }.draw(frame, area, &scene, &over);
}

/// What a seat weighs, or what a person can choose.
fn panel(live: &Live) -> Vec<Line<'static>> {
    if let Some(hand) = &live.hand {
        let advice = live.advice.as_ref().filter(|(tick, _)| hand.hints && *tick + 1 >= live.held.tick());
        let advice = advice.map(|(_, told)| told);
        if hand.bindings.is_empty() {
            return options(live, advice);
        }
        return advice.map(|told| weighed("the adviser", told)).unwrap_or_default();
    }
    live.shown.map(|seat| weighed(&live.about.names[seat], &live.told[seat])).unwrap_or_default()
}

/// The options of a person, with what the adviser thinks of each.
fn options(live: &Live, advice: Option<&Told>) -> Vec<Line<'static>> {
    let Some(hand) = live.hand.as_ref().filter(|_| live.awaits()) else { return Vec::new() };
    let mut lines = vec![Line::styled(" Your options", bold())];
    let thoughts = advice.and_then(|told| told.thoughts.as_ref());
    let worth = |option: &Value| {
        let found = thoughts?.options.iter().find(|own| own.option == *option)?;
        Some(format!("  worth {}", value(found)))
    };
    for (place, (option, words)) in hand.options.iter().enumerate() {
        let mark = if place == hand.picked { ">" } else { " " };
        let best = advice.is_some_and(|told| told.choice.as_ref() == Some(option));
        let advised = if best { "  the adviser's choice" } else { "" };
        let text = format!(" {mark} {words}{}{advised}", worth(option).unwrap_or_default());
        lines.push(Line::styled(text, if place == hand.picked { bold() } else { Style::new() }));
    }
    lines
}

/// What an agent chose and weighed.
fn weighed(name: &str, told: &Told) -> Vec<Line<'static>> {
    let choice = told.choice.as_ref().map_or_else(|| "nothing yet".into(), action);
    let mut lines = vec![Line::styled(format!(" {name} chooses {choice}"), bold())];
    match &told.thoughts {
        Some(thoughts) => lines.extend(options_told(thoughts, told.choice.as_ref())),
        None if told.choice.is_some() => lines.push(Line::raw(" It does not say what it weighs.")),
        None => {}
    }
    lines
}

fn options_told(thoughts: &Thoughts<Value>, choice: Option<&Value>) -> Vec<Line<'static>> {
    let one = |own: &inkpot_core::Weighed<Value>| {
        let mark = if choice == Some(&own.option) { "*" } else { " " };
        let text = format!(" {mark} {}  {}  {}", action(&own.option), value(own), line(&own.line));
        Line::raw(text)
    };
    thoughts.options.iter().map(one).collect()
}

/// What is asked, or what is to be done.
fn said(live: &Live) -> Line<'static> {
    let text = if live.over {
        live.about.after.clone()
    } else if live.asked {
        "Leave the match? It will be stored as abandoned. Esc leaves, Enter goes on.".into()
    } else if !live.begun {
        "Enter begins the match.".into()
    } else if let Some(hand) = live.hand.as_ref().filter(|hand| hand.bindings.is_empty() && live.awaits()) {
        if hand.typed.is_empty() {
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
    for (place, told) in hand.bindings.told() {
        let style = if hand.held == Some(place) { Style::new().add_modifier(Modifier::REVERSED) } else { Style::new() };
        spans.extend([Span::styled(told, style), Span::raw("   ")]);
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
