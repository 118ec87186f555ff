//! The brief of a tuning, read and written.

use std::fmt::Write;

use inkpot_core::KnobValue;
use inkpot_lab::{
    Across, EntrantDraft, Free, FreeDraft, FreeRange, Place, Problem, ProfileDraft, RungDraft, SearchPlan, Side,
    Target, TargetDraft, Tune, TuneDraft, resolve_tune,
};
use toml::Value;

use crate::brief::{Reader, agent, entrant, inline, inline_knobs, knobs, value};
use crate::failure::Failure;
use crate::kinds::kind::{Brief, Checkable};
use crate::level;

/// Reads the brief of a tuning.
pub(crate) fn read(brief: &Brief) -> Result<Checkable<SearchPlan>, Failure> {
    let draft = draft(brief)?;
    let tune = resolve_tune(&draft, &brief.desk.registry).map(|tune| SearchPlan::Tune(Box::new(tune)));
    // What could not be read has been told already.
    let unread = |problem: &Problem| problem.what.contains("``");
    Ok(tune.map_err(|problems| problems.into_iter().filter(|problem| !unread(problem)).collect()))
}

fn draft(brief: &Brief) -> Result<TuneDraft, Failure> {
    let mut top = Reader::new(brief.table, Place::default(), brief.findings);
    let _kind = top.text("kind");
    let game = brief.game(&mut top, "`game = \"piste\"`")?;
    let level = top.text("level").map(|text| level::typed(&text, &game, brief.base, brief.desk)).transpose()?;
    let draft = TuneDraft {
        game,
        level,
        seed: top.count("seed"),
        series: top.count("series"),
        confidence: top.number("confidence"),
        rules: top.knobs("rules"),
        opponent: if let Some(table) = top.table("opponent") {
            entrant(table)
        } else {
            top.problem("", "the table `opponent` is missing", "add [opponent] with `agent = \"fencer\"`");
            EntrantDraft::default()
        },
        free: top.tables("free").into_iter().map(free).collect(),
        targets: top.tables("targets").into_iter().map(target).collect(),
        languages: top.texts("languages"),
        profiles: top.tables("profile").into_iter().map(|table| profile(table, true)).collect(),
        rungs: top.tables("rung").into_iter().map(rung).collect(),
        budget: top.count("budget"),
        proof: top.count("proof"),
        precision: top.number("precision"),
    };
    top.finish();
    Ok(draft)
}

/// Reads a knob that may be turned.
pub(crate) fn free(mut table: Reader) -> FreeDraft {
    let draft = FreeDraft {
        of: table.text("of"),
        knob: table.needed_text("knob", "`knob = \"skill\"`").unwrap_or_default(),
        low: table.number("from"),
        high: table.number("to"),
        choices: table.texts("choices"),
        across: table.word("across", &Across::ALL, Across::name),
        step: table.number("step"),
    };
    table.finish();
    draft
}

fn target(mut table: Reader) -> TargetDraft {
    let draft = TargetDraft {
        figure: table.needed_text("figure", "`figure = \"win_rate\"`").unwrap_or_default(),
        side: table.text("side"),
        value: table.number("value"),
        within: table.number("within"),
        low: table.number("from"),
        high: table.number("to"),
        weight: table.number("weight"),
        soft: table.flag("soft").unwrap_or(false),
    };
    table.finish();
    draft
}

fn profile(mut table: Reader, alone: bool) -> ProfileDraft {
    let draft = profile_fields(&mut table);
    if alone {
        table.finish();
    }
    draft
}

fn profile_fields(table: &mut Reader) -> ProfileDraft {
    ProfileDraft {
        name: table.needed_text("name", "`name = \"gentle\"`").unwrap_or_default(),
        extends: table.text("extends"),
        title: table.by_language("title"),
        text: table.by_language("text"),
        opponent: table.knobs("opponent"),
        player: table.knobs("player"),
        rules: table.knobs("rules"),
    }
}

fn rung(mut table: Reader) -> RungDraft {
    let profile = profile_fields(&mut table);
    let stand_in = table.text("stand_in");
    let mix: Vec<(EntrantDraft, f64)> = table.tables("mix").into_iter().map(player).collect();
    if stand_in.is_some() && !mix.is_empty() {
        table.problem("mix", "`stand_in` and `mix` are both given", "leave one of the two out");
    }
    let player = stand_in.map(|agent| (EntrantDraft { agent, ..EntrantDraft::default() }, 1.0));
    let targets = table.tables("targets").into_iter().map(target).collect();
    table.finish();
    RungDraft { profile, players: player.into_iter().chain(mix).collect(), targets }
}

fn player(mut table: Reader) -> (EntrantDraft, f64) {
    let weight = table.number("weight").unwrap_or(1.0);
    let agent = table.needed_text("agent", "`agent = \"newcomer\"`").unwrap_or_default();
    let draft = EntrantDraft { name: None, agent, knobs: table.knobs("knobs"), vary: Vec::new() };
    table.finish();
    (draft, weight)
}

/// The brief of a tuning with every default filled in and every profile spelled out. Reading it again gives the same
/// tuning.
pub(super) fn write(tune: &Tune) -> String {
    let text = |text: &str| Value::from(text).to_string();
    let mut out = format!(
        "kind = \"tune\"\ngame = {}\nlevel = {}\nconfidence = {}\nseed = {}\nbudget = {}\nproof = {}\nprecision = {}\nlanguages = {}\n",
        text(&tune.ground.game.typed()),
        text(&tune.ground.level.to_string()),
        Value::from(tune.ground.confidence),
        tune.ground.seed,
        tune.budget,
        tune.proof,
        Value::from(tune.precision),
        Value::from(tune.languages.clone()),
    );
    if let Some(series) = tune.ground.series {
        let _ = writeln!(out, "series = {series}");
    }
    let _ = write!(out, "\n[rules]\n{}\n[opponent]\n{}", knobs(&tune.ground.rules), agent(&tune.opponent));
    for free in &tune.free {
        out.push_str(&free_table(free));
    }
    for rung in &tune.rungs {
        let _ = writeln!(out, "\n[[rung]]\nname = {}", text(&rung.name));
        for (key, texts) in [("title", &rung.title), ("text", &rung.text)] {
            if !texts.is_empty() {
                let _ = writeln!(out, "{key} = {}", inline(texts.iter().map(|(k, v)| (k.clone(), text(v)))));
            }
        }
        for side in Side::ALL {
            let modifiers = rung.modifiers_of(side);
            if !modifiers.is_empty() {
                let _ = writeln!(out, "{} = {}", side.name(), inline_knobs(&modifiers));
            }
        }
        let targets: Vec<String> = rung.targets.iter().map(target_text).collect();
        let _ = writeln!(out, "targets = [\n  {},\n]", targets.join(",\n  "));
        for player in &rung.players {
            let _ = write!(out, "[[rung.mix]]\nweight = {}\n{}", Value::from(player.weight), agent(&player.entrant));
        }
    }
    out
}

/// The range of a free knob.
pub(crate) fn range_lines(range: &FreeRange) -> String {
    match range {
        FreeRange::Number { low, high, .. } => {
            let end = |x: f64| value(&KnobValue::Number(x));
            format!("from = {}\nto = {}\n", end(*low), end(*high))
        }
        FreeRange::Words(words) => format!("choices = {}\n", Value::from(words.clone())),
    }
}

pub(crate) fn free_table(free: &Free) -> String {
    let mut out = format!(
        "\n[[free]]\nof = \"{}\"\nknob = \"{}\"\nacross = \"{}\"\n",
        free.of.name(),
        free.knob,
        free.across.name()
    );
    out.push_str(&range_lines(&free.range));
    if let Some(step) = free.step {
        let _ = writeln!(out, "step = {}", Value::from(step));
    }
    out
}

fn target_text(target: &Target) -> String {
    let number = |x: f64| value(&KnobValue::Number(x)).to_string();
    let mut items = vec![("figure".to_string(), Value::from(target.figure.as_str()).to_string())];
    if target.side == Side::Opponent {
        items.push(("side".into(), "\"opponent\"".into()));
    }
    if let Some((aimed, within)) = target.value.zip(target.given_within()) {
        items.push(("value".into(), number(aimed)));
        items.push(("within".into(), number(within)));
    } else {
        let ends = [("from", target.low()), ("to", target.high())];
        items.extend(ends.into_iter().filter(|(_, x)| x.is_finite()).map(|(key, x)| (key.into(), number(x))));
    }
    items.push(("weight".into(), number(target.weight)));
    items.push(("soft".into(), (!target.hard).to_string()));
    inline(items.into_iter())
}
