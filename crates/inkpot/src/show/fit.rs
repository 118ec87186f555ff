//! What a fit of a stand-in came to.

use inkpot_lab::{FitPlan, Fitted, FittedKnob};
use inkpot_stats::Interval;
use toml::Value;

use super::format::{count, p_value, places, said_figure};
use super::table::{Column, table};

/// A fit with a smaller p-value is told of: no values of these knobs play like the log.
const MISFIT: f64 = 0.01;

/// Sentence, tables and notes.
pub(crate) fn text(plan: &FitPlan, fitted: &Fitted, color: bool) -> String {
    let each: Vec<String> =
        fitted.knobs.iter().map(|own| format!("{} {}", own.knob, said_figure(&interval(own), ""))).collect();
    let sentence = format!("The people of this log play like a {} with {}.", plan.standin.agent, each.join(", "));
    let rows: Vec<Vec<String>> = fitted
        .columns
        .iter()
        .map(|own| {
            let (mean, se) = (own.logged, own.logged_se);
            let places = places(&Interval { value: mean, low: mean - se, high: mean + se });
            vec![
                own.column.clone(),
                format!("{mean:.places$}"),
                format!("{se:.places$}"),
                format!("{:.places$}", own.simulated),
                format!("{:+.1}", (own.simulated - mean) / se),
            ]
        })
        .collect();
    let columns = vec![
        Column::text("Column"),
        Column::figure("Logged mean"),
        Column::figure("Standard error"),
        Column::figure("Fitted stand-in"),
        Column::figure("Apart, in errors"),
    ];
    let mut lines = vec![format!(
        "{} matches of {} people against {} simulated ones; intervals over people. Misfit {}.",
        count(fitted.logged as u64),
        fitted.people,
        count(fitted.simulated),
        p_value(fitted.misfit_p)
    )];
    if fitted.misfit_p < MISFIT {
        lines.push("note: no values of these knobs play like the log in every column: free another knob, or look at the columns that are far apart".into());
    }
    for own in fitted.knobs.iter().filter(|own| own.at_end) {
        lines.push(format!("note: `{}` lies at the end of its range: widen it", own.knob));
    }
    format!("{sentence}\n\n{}\n\n{}", table(columns, rows, color), lines.join("\n"))
}

/// The fitted stand-in as an agent file.
pub(crate) fn agent_file(plan: &FitPlan, fitted: &Fitted) -> String {
    let free = |name: &str| fitted.knobs.iter().any(|own| own.knob == name);
    let given = plan.standin.given.iter().filter(|(name, _)| !free(name)).map(|(name, value)| {
        let value = value.number().map_or_else(|| Value::from(value.to_string()), Value::from);
        format!("{name} = {value}")
    });
    let own = fitted.knobs.iter().map(|own| {
        // A digit more than the interval makes meaningful.
        let places = places(&interval(own)) + 1;
        format!("{} = {:.places$}", own.knob, own.value)
    });
    let knobs: Vec<String> = given.chain(own).collect();
    format!(
        "# Fitted to {} logged matches of {} people.\nagent = {}\nknobs = {{ {} }}\n",
        fitted.logged,
        fitted.people,
        Value::from(plan.standin.agent.as_str()),
        knobs.join(", ")
    )
}

fn interval(own: &FittedKnob) -> Interval {
    Interval { value: own.value, low: own.low, high: own.high }
}
