//! The common keys of evolution and training: subject and evaluation, read from a brief and written into one.

use std::fmt::Write;

use inkpot_core::{GameSource, KnobValue, Knobs};
use inkpot_lab::{
    Aim, AimDraft, Entrant, EntrantDraft, GeneDraft, Leg, LegDraft, MethodDraft, Shape, StudyKind, SubjectDraft,
    TermDraft, YardstickDraft,
};
use toml::Value;

use crate::agent_file;
use crate::brief::{Reader, agent, entrant_or_file, inline_knobs, knobs, value};
use crate::failure::Failure;
use crate::kinds::kind::Brief;
use crate::kinds::tune::{free_draft, range_lines};
use crate::level;
use crate::pool::Pool;

/// Reads the aim.
pub(crate) fn read_aim(top: &mut Reader, brief: &Brief) -> Result<AimDraft, Failure> {
    let _kind = top.text("kind");
    let game = brief.game(top, "`game = \"regatta\"`")?;
    let level = top.text("level").map(|text| level::typed(&text, &game, brief.base, brief.desk)).transpose()?;
    let subject = top.table("subject").map(subject);
    if subject.is_none() {
        top.problem(
            "",
            "the table `subject` is missing",
            "add [subject] with `agent = \"policy\"`, or the agent whose knobs are sought",
        );
    }
    let method = top.table("method").map(method).unwrap_or_default();
    let opponents = opponents(top, &game, brief)?;
    let yardstick = match top.table("yardstick") {
        Some(table) => yardstick(table, &game, brief)?,
        None => YardstickDraft::default(),
    };
    Ok(AimDraft {
        level,
        seed: top.count("seed"),
        confidence: top.number("confidence"),
        rules: top.knobs("rules"),
        subject: subject.unwrap_or_default(),
        free: top.tables("free").into_iter().map(gene).collect(),
        method,
        terms: top.tables("term").into_iter().map(term).collect(),
        in_turn: top.flag("in_turn"),
        opponents,
        seeds: top.count("seeds"),
        yardstick,
        proof: top.count("proof"),
        game,
    })
}

/// Whether enough can be read for the rest to be checked.
pub(crate) fn is_readable(draft: &AimDraft) -> bool {
    !draft.game.name().is_empty() && !draft.subject.agent.is_empty()
}

fn subject(mut table: Reader) -> SubjectDraft {
    let draft = SubjectDraft {
        agent: table.needed_text("agent", "`agent = \"policy\"`").unwrap_or_default(),
        knobs: table.knobs("knobs"),
        layers: table.numbers("layers"),
        activation: table.text("activation"),
        steps: table.count("steps"),
    };
    table.finish();
    draft
}

fn method(mut table: Reader) -> MethodDraft {
    MethodDraft { name: table.text("name"), knobs: table.rest_as_knobs() }
}

fn gene(mut table: Reader) -> GeneDraft {
    let scale = table.text("scale");
    GeneDraft { scale, free: free_draft(table) }
}

fn term(mut table: Reader) -> TermDraft {
    let draft = TermDraft {
        figure: table.needed_text("figure", "`figure = \"score\"`").unwrap_or_default(),
        weight: table.number("weight"),
        missing: table.number("missing"),
        pays: table.text("pays"),
    };
    table.finish();
    draft
}

/// The legs of a course.
pub(crate) fn read_legs(top: &mut Reader, game: &GameSource, brief: &Brief) -> Result<Vec<LegDraft>, Failure> {
    let mut all = Vec::new();
    for mut leg in top.tables("leg") {
        all.push(LegDraft {
            level: leg.text("level").map(|text| level::typed(&text, game, brief.base, brief.desk)).transpose()?,
            rules: leg.knobs("rules"),
            opponents: opponents(&mut leg, game, brief)?,
            pass: leg.number("pass"),
        });
        leg.finish();
    }
    Ok(all)
}

/// The opponents of a table, with the files and pools read that they name.
fn opponents(table: &mut Reader, game: &GameSource, brief: &Brief) -> Result<Vec<EntrantDraft>, Failure> {
    let mut all = Vec::new();
    for mut opponent in table.tables("opponent") {
        if let Some(pool) = opponent.text("pool") {
            opponent.finish();
            all.extend(Pool::load(&brief.base.join(pool), brief.desk)?.members_for(game.name())?);
            continue;
        }
        match entrant_or_file(opponent) {
            (typed, None) => all.push(typed),
            (typed, Some(pattern)) => {
                all.extend(
                    agent_file::load_all(brief.base, &pattern, brief.desk)?
                        .into_iter()
                        .map(|drafted| EntrantDraft { knobs: typed.knobs.over(&drafted.knobs), ..drafted }),
                );
            }
        }
    }
    Ok(all)
}

fn yardstick(mut table: Reader, game: &GameSource, brief: &Brief) -> Result<YardstickDraft, Failure> {
    let draft = YardstickDraft {
        level: table.text("level").map(|text| level::typed(&text, game, brief.base, brief.desk)).transpose()?,
        rules: table.knobs("rules"),
        opponents: opponents(&mut table, game, brief)?,
        held_back: table
            .texts("held_back")
            .iter()
            .map(|text| level::typed(text, game, brief.base, brief.desk))
            .collect::<Result<_, _>>()?,
        figure: table.text("figure"),
        target: table.number("target"),
        every: table.count("every"),
        matches: table.count("matches"),
    };
    table.finish();
    Ok(draft)
}

pub(crate) fn number(x: f64) -> Value {
    value(&KnobValue::Number(x))
}

pub(crate) fn text(text: &str) -> Value {
    Value::from(text)
}

/// The keys of a brief that stand before its tables; `own` are those of the kind alone.
pub(crate) fn write_head(aim: &Aim, kind: StudyKind, key: &str, out: &mut String) {
    let ground = &aim.ground;
    let _ = write!(
        out,
        "kind = {}\ngame = {}\nlevel = {}\nconfidence = {}\nseed = {}\nseeds = {}\n{key}proof = {}\nin_turn = {}\n\n\
         [rules]\n{}",
        text(kind.name()),
        text(&ground.game.typed()),
        text(&ground.level.to_string()),
        Value::from(ground.confidence),
        ground.seed,
        aim.seeds,
        aim.proof,
        aim.in_turn,
        knobs(&ground.rules),
    );
    write_subject(aim, out);
}

/// The method.
pub(crate) fn write_method(name: &str, values: &Knobs, out: &mut String) {
    let _ = write!(out, "\n[method]\nname = {}\n{}", text(name), knobs(values));
}

/// Terms and opponents.
pub(crate) fn write_terms(aim: &Aim, kind: StudyKind, out: &mut String) {
    for term in &aim.terms {
        let _ = write!(out, "\n[[term]]\nfigure = {}\nweight = {}\n", text(&term.figure), number(term.weight));
        if let Some(missing) = term.missing {
            let _ = writeln!(out, "missing = {}", number(missing));
        }
        if kind == StudyKind::Train {
            let _ = writeln!(out, "pays = {}", text(term.pays.name()));
        }
    }
    write_opponents("opponent", &aim.opponents, out);
}

/// The yardstick, the last of a brief.
pub(crate) fn write_yardstick(aim: &Aim, out: &mut String) {
    let yardstick = &aim.yardstick;
    let _ = write!(
        out,
        "\n[yardstick]\nlevel = {}\nfigure = {}\nevery = {}\nmatches = {}\n",
        text(&yardstick.level.to_string()),
        text(&yardstick.figure),
        yardstick.every,
        yardstick.matches
    );
    if let Some(target) = yardstick.target {
        let _ = writeln!(out, "target = {}", number(target));
    }
    if !yardstick.held_back.is_empty() {
        let levels: Vec<String> = yardstick.held_back.iter().map(ToString::to_string).collect();
        let _ = writeln!(out, "held_back = {}", Value::from(levels));
    }
    let _ = writeln!(out, "rules = {}", inline_knobs(&yardstick.rules));
    write_opponents("yardstick.opponent", &yardstick.opponents, out);
}

fn write_subject(aim: &Aim, out: &mut String) {
    let candidate = &aim.candidate;
    let knobs: &Knobs = &candidate.given;
    let _ = write!(out, "\n[subject]\nagent = {}\nknobs = {}\n", text(&candidate.agent), inline_knobs(knobs));
    match &candidate.shape {
        Shape::Knobs { free, log } => {
            for (free, log) in free.iter().zip(log) {
                let scale = if *log { "log" } else { "linear" };
                let _ = write!(out, "\n[[free]]\nknob = {}\nscale = \"{scale}\"\n", text(&free.knob));
                out.push_str(&range_lines(&free.range));
            }
        }
        Shape::Network { layers, activation, .. } => {
            let layers: Vec<i64> = layers.iter().map(|width| *width as i64).collect();
            let _ = write!(out, "layers = {}\nactivation = \"{}\"\n", Value::from(layers), activation.name());
        }
        Shape::Graph { .. } | Shape::Table => {}
        Shape::Tape { steps, .. } => {
            let _ = writeln!(out, "steps = {steps}");
        }
    }
}

/// The legs of a course.
pub(crate) fn write_legs(legs: &[Leg], out: &mut String) {
    for leg in legs {
        let _ = write!(
            out,
            "\n[[leg]]\nlevel = {}\n{}rules = {}\n",
            text(&leg.level.to_string()),
            leg.pass.map(|pass| format!("pass = {}\n", number(pass))).unwrap_or_default(),
            inline_knobs(&leg.rules)
        );
        write_opponents("leg.opponent", &leg.opponents, out);
    }
}

fn write_opponents(list: &str, opponents: &[Entrant], out: &mut String) {
    for opponent in opponents {
        let _ = write!(out, "\n[[{list}]]\nname = {}\n{}", text(&opponent.name), agent(opponent));
    }
}
