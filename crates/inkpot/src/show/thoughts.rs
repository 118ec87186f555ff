//! An agent's values, as tables and as a figure.

use inkpot_core::{Explained, Spent, Thoughts, Weighed};
use inkpot_figures::{Drawing, OptionRow, OptionValues, Words};
use serde_json::Value;

use super::format::{bar, count, counted, plain};
use super::table::{Column, table};
use crate::failure::Failure;

const BAR: usize = 12;
/// Actions of a line that are written out, where each is a word.
const LINE: usize = 12;
/// Letters of a line that are written out, where actions are longer; two actions are written anyhow.
const LETTERS: usize = 48;
/// Column of visits in the table of replies.
const VISITS: usize = 4;
/// Options in the figure.
const DRAWN: usize = 16;

/// An action in few words: `3`, `blade lunge, throttle 0.5`.
pub(crate) fn action(value: &Value) -> String {
    match value {
        Value::Number(number) => {
            number.as_f64().map_or_else(|| number.to_string(), |x| plain((x * 1e2).round() / 1e2 + 0.0))
        }
        Value::String(word) => word.clone(),
        Value::Object(fields) => {
            fields.iter().map(|(name, value)| format!("{name} {}", action(value))).collect::<Vec<_>>().join(", ")
        }
        Value::Array(items) => items.iter().map(action).collect::<Vec<_>>().join(" "),
        other => other.to_string(),
    }
}

pub(crate) fn line(actions: &[Value]) -> String {
    let simple = actions.iter().all(|value| !value.is_object());
    let all = actions.iter().map(action);
    let mut letters = 0;
    let mut fits = |(place, word): &(usize, String)| {
        letters += word.chars().count() + 2;
        if simple { *place < LINE } else { *place < 2 || letters <= LETTERS }
    };
    let mut words: Vec<String> = all.enumerate().take_while(|word| fits(word)).map(|(_, word)| word).collect();
    if actions.len() > words.len() {
        words.push("...".into());
    }
    words.join(if simple { " " } else { "; " })
}

/// All of it as text.
pub(crate) fn text(explained: &Explained, game: &str, agent: &str, layers: u32, color: bool) -> String {
    let mut parts = vec![finding(explained, game, agent)];
    let Some(thoughts) = explained.thoughts.as_ref().filter(|thoughts| explained.seat.is_some() && says(thoughts))
    else {
        return parts.remove(0);
    };
    if !thoughts.options.is_empty() {
        parts.push(options(&thoughts.options, explained.best.as_ref(), color));
    }
    for layer in 2..=layers {
        let replies = replies(&thoughts.options, layer, color);
        if !replies.is_empty() {
            parts.push(format!("Layer {layer}: what could follow, best for its mover first\n{replies}"));
        }
    }
    if thoughts.steps.len() > 1 {
        parts.push(format!("How the judgement changed with depth\n{}", steps(thoughts, color)));
    }
    parts.push(spent(&thoughts.spent));
    if !thoughts.looking_at.is_empty() && (thoughts.spent.out_of_budget || explained.fell.is_some()) {
        parts.push(format!("It was looking at {} when it stopped.", line(&thoughts.looking_at)));
    }
    parts.join("\n\n")
}

/// Whether an agent weighed anything: a network may only observe and give.
pub(crate) fn says(thoughts: &Thoughts<Value>) -> bool {
    !thoughts.options.is_empty() || thoughts.spent.looked_ahead()
}

/// Writes its choice in a sentence.
fn finding(explained: &Explained, game: &str, agent: &str) -> String {
    let place =
        explained.position.as_ref().map_or_else(|| game.to_string(), |position| format!("{game} at {position}"));
    let Some(seat) = explained.seat else {
        let scores: Vec<String> = explained.scores.iter().map(|score| plain(*score)).collect();
        return format!("{place}: the match is over at this position, {}.", scores.join(" : "));
    };
    let Some(best) = &explained.best else {
        return format!("{place}: {agent} in seat {seat} failed before it chose.");
    };
    let exact = explained.thoughts.as_ref().is_some_and(|thoughts| thoughts.spent.exact);
    let options = || explained.thoughts.iter().flat_map(|thoughts| &thoughts.options);
    let chosen = options().find(|option| option.option == *best);
    let value = chosen.filter(|option| option.value.is_finite()).map(|option| {
        let value = signed(option.value);
        // Whoever looked nothing ahead shares out chances; whoever did, what was spent.
        let looked = explained.thoughts.as_ref().is_some_and(|thoughts| thoughts.spent.looked_ahead());
        match option.share.filter(|_| !looked) {
            _ if exact => format!(", worth exactly {value} at the end of the match"),
            Some(chance) => format!(" and gives it a chance of {:.0} %", 100.0 * chance),
            None => format!(" and values it at {value}"),
        }
    });
    let unknown = options().next().is_some() && options().all(|option| option.value.is_nan());
    let value = value.or_else(|| unknown.then(|| "; it knows the value of no option here".into()));
    let silent = if explained.thoughts.as_ref().is_some_and(says) { "" } else { "; it does not say what it weighs" };
    format!("{place}: {agent} in seat {seat} chooses {}{}{silent}.", action(best), value.unwrap_or_default())
}

pub(crate) fn signed(value: f64) -> String {
    plain((value * 1e3).round() / 1e3)
}

fn options(options: &[Weighed<Value>], best: Option<&Value>, color: bool) -> String {
    let has = |test: fn(&Weighed<Value>) -> bool| options.iter().any(test);
    let visited = has(|option| option.visits.is_some());
    let deep = has(|option| option.depth.is_some());
    let shared = has(|option| option.share.is_some());
    let mut columns = vec![Column::text("Option"), Column::figure("Value")];
    columns.extend(visited.then_some(Column::figure("Visits")));
    columns.extend(deep.then_some(Column::figure("Depth")));
    columns.extend(shared.then_some(Column::figure("Share")).into_iter().chain(shared.then_some(Column::text(""))));
    // Who looks nothing ahead has none.
    let has_lines = visited || deep || has(|option| option.line.len() > 1);
    columns.extend(has_lines.then_some(Column::text("Best line")));
    let row = |option: &Weighed<Value>| {
        let chosen = if best == Some(&option.option) { "*" } else { "" };
        let mut row = vec![format!("{}{chosen}", action(&option.option)), value(option)];
        if visited {
            row.push(option.visits.map(count).unwrap_or_default());
        }
        if deep {
            row.push(option.depth.map(|depth| depth.to_string()).unwrap_or_default());
        }
        if shared {
            row.push(option.share.map(|share| format!("{:.0} %", share * 100.0)).unwrap_or_default());
            row.push(option.share.map(|share| bar(share, BAR)).unwrap_or_default());
        }
        row.extend(has_lines.then(|| line(&option.line)));
        row
    };
    let rows: Vec<Vec<String>> = options.iter().map(row).collect();
    table(columns, rows, color)
}

pub(crate) fn value(option: &Weighed<Value>) -> String {
    match option.value {
        value if value.is_nan() => "-".into(),
        value if option.bound => format!("at most {}", signed(value)),
        value => format!("{value:.3}").trim_end_matches('0').trim_end_matches('.').to_string(),
    }
}

/// Describes the options of one layer, under the moves that lead to them.
fn replies(options: &[Weighed<Value>], layer: u32, color: bool) -> String {
    let mut rows = Vec::new();
    gather(options, layer, &mut Vec::new(), &mut rows);
    if rows.is_empty() {
        return String::new();
    }
    let mut columns = vec![
        Column::text("After"),
        Column::text("Seat"),
        Column::text("Option"),
        Column::figure("Value to that seat"),
        Column::figure("Visits"),
        Column::text("Best line"),
    ];
    if rows.iter().all(|row| row[VISITS].is_empty()) {
        columns.remove(VISITS);
        for row in &mut rows {
            row.remove(VISITS);
        }
    }
    table(columns, rows, color)
}

fn gather(options: &[Weighed<Value>], layer: u32, before: &mut Vec<String>, rows: &mut Vec<Vec<String>>) {
    if layer == 1 {
        for (place, option) in options.iter().enumerate() {
            let after = if place == 0 { before.join(" ") } else { String::new() };
            let visits = option.visits.map(count).unwrap_or_default();
            rows.push(vec![
                after,
                option.seat.to_string(),
                action(&option.option),
                value(option),
                visits,
                line(&option.line),
            ]);
        }
        return;
    }
    for option in options {
        before.push(action(&option.option));
        gather(&option.replies, layer - 1, before, rows);
        before.pop();
    }
}

fn steps(thoughts: &Thoughts<Value>, color: bool) -> String {
    let rows: Vec<Vec<String>> = thoughts
        .steps
        .iter()
        .map(|step| vec![step.depth.to_string(), action(&step.best), signed(step.value), count(step.nodes)])
        .collect();
    table(
        vec![Column::figure("Depth"), Column::text("Best"), Column::figure("Value"), Column::figure("States advanced")],
        rows,
        color,
    )
}

pub(crate) fn spent(spent: &Spent) -> String {
    if !spent.looked_ahead() {
        return "It judged this state alone, and looked nothing ahead.".into();
    }
    let mut said = vec![counted(spent.nodes, "state advanced", "states advanced")];
    if spent.iterations > 0 {
        said.push(counted(spent.iterations, "iteration", "iterations"));
    }
    said.push(format!("{} deep", counted(u64::from(spent.depth), "turn", "turns")));
    if spent.memory_bytes > 0 {
        let kib = spent.memory_bytes as f64 / 1024.0;
        said.push(if kib < 1024.0 {
            format!("{kib:.0} KiB of tables")
        } else {
            format!("{:.1} MiB of tables", kib / 1024.0)
        });
    }
    if spent.out_of_budget {
        said.push("the budget ran out in the middle of a deeper look".into());
    }
    format!("Spent: {}.", said.join(", "))
}

/// Values by option as a figure.
pub(crate) fn figure(explained: &Explained, game: &str, agent: &str) -> Result<Drawing, Failure> {
    let thoughts = explained.thoughts.as_ref().filter(|thoughts| !thoughts.options.is_empty()).ok_or_else(|| {
        Failure::wrong(
            "there is nothing to draw: no option was weighed here",
            "use an agent that says what it weighs (minimax, treesearch, playouts, horizon, grabber) and a position \
             that is not over",
        )
    })?;
    let rows = thoughts.options.iter().take(DRAWN).map(|option| OptionRow {
        name: action(&option.option),
        value: option.value.is_finite().then_some(option.value),
        bound: option.bound,
        share: option.share,
        chosen: explained.best.as_ref() == Some(&option.option),
        line: line(&option.line),
    });
    let exact = if thoughts.spent.exact { "exact, to the end of the match" } else { "in the agent's own units" };
    let place = explained.position.clone().unwrap_or_else(|| "the start".into());
    Ok(OptionValues {
        words: Words {
            title: finding(explained, game, agent).trim_end_matches('.').replace(&format!("{game} at {place}: "), ""),
            subtitle: format!(
                "Value of each option to seat {}, {exact}; {game} at {place}",
                explained.seat.unwrap_or(0)
            ),
            caption: format!("{} No intervals: what the agent weighed, not measured rates.", spent(&thoughts.spent)),
        },
        rows: rows.collect(),
    }
    .draw())
}
