//! The brief of an evolution, read and written.

use std::fmt::Write;

use inkpot_core::{KnobValue, Knobs};
use inkpot_lab::{
    Entrant, EntrantDraft, Evolve, EvolveDraft, GeneDraft, MethodDraft, NicheDraft, Place, RivalsDraft, Shape, Sought,
    SubjectDraft, TermDraft, YardstickDraft, resolve_evolve,
};
use toml::Value;

use crate::agent_file;
use crate::brief::{Reader, agent, entrant_or_file, inline_knobs, knobs, value};
use crate::failure::Failure;
use crate::kinds::kind::{Brief, Checkable};
use crate::kinds::tune::{free_draft, range_lines};
use crate::level;
use crate::pool::Pool;

/// Reads the brief of an evolution.
pub(in crate::kinds) fn read(brief: &Brief) -> Result<Checkable<Sought>, Failure> {
    let mut top = Reader::new(brief.table, Place::default(), brief.findings);
    let _kind = top.text("kind");
    let game = top.needed_text("game", "`game = \"regatta\"`").unwrap_or_default();
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
    let opponents = opponents(&mut top, &game, brief)?;
    let yardstick = match top.table("yardstick") {
        Some(table) => yardstick(table, &game, brief)?,
        None => YardstickDraft::default(),
    };
    let draft = EvolveDraft {
        level,
        seed: top.count("seed"),
        confidence: top.number("confidence"),
        rules: top.knobs("rules"),
        subject: subject.unwrap_or_default(),
        free: top.tables("free").into_iter().map(gene).collect(),
        method,
        niches: top.tables("niche").into_iter().map(niche).collect(),
        terms: top.tables("term").into_iter().map(term).collect(),
        in_turn: top.flag("in_turn"),
        opponents,
        rivals: top.table("rivals").map(rivals),
        blocks: top.count("blocks"),
        fresh_blocks: top.flag("fresh_blocks"),
        seeds: top.count("seeds"),
        matches: top.count("matches"),
        stagnation: top.count("stagnation"),
        yardstick,
        proof: top.count("proof"),
        game,
    };
    let readable = !draft.game.is_empty() && !draft.subject.agent.is_empty();
    top.finish();
    if !readable {
        return Ok(Err(Vec::new()));
    }
    Ok(resolve_evolve(&draft, &brief.desk.registry).map(|own| Sought::Evolve(Box::new(own))))
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

fn rivals(mut table: Reader) -> RivalsDraft {
    let draft = RivalsDraft {
        populations: table.count("populations"),
        current: table.count("current"),
        past: table.count("past"),
        hall_of_fame: table.count("hall_of_fame"),
    };
    table.finish();
    draft
}

fn niche(mut table: Reader) -> NicheDraft {
    let draft = NicheDraft {
        measure: table.needed_text("measure", "`measure = \"gap_m\"`").unwrap_or_default(),
        low: table.number("from"),
        high: table.number("to"),
        count: table.count("count"),
    };
    table.finish();
    draft
}

fn term(mut table: Reader) -> TermDraft {
    let draft = TermDraft {
        figure: table.needed_text("figure", "`figure = \"score\"`").unwrap_or_default(),
        weight: table.number("weight"),
        missing: table.number("missing"),
    };
    table.finish();
    draft
}

/// The opponents of a table, with the files and pools read that they name.
fn opponents(table: &mut Reader, game: &str, brief: &Brief) -> Result<Vec<EntrantDraft>, Failure> {
    let mut all = Vec::new();
    for mut own in table.tables("opponent") {
        if let Some(pool) = own.text("pool") {
            own.finish();
            all.extend(Pool::load(&brief.base.join(pool), brief.desk)?.members_for(game)?);
            continue;
        }
        match entrant_or_file(own) {
            (typed, None) => all.push(typed),
            (typed, Some(pattern)) => {
                all.extend(
                    agent_file::load_all(brief.base, &pattern, brief.desk)?
                        .into_iter()
                        .map(|own| EntrantDraft { knobs: typed.knobs.over(&own.knobs), ..own }),
                );
            }
        }
    }
    Ok(all)
}

fn yardstick(mut table: Reader, game: &str, brief: &Brief) -> Result<YardstickDraft, Failure> {
    let draft = YardstickDraft {
        level: table.text("level").map(|text| level::typed(&text, game, brief.base, brief.desk)).transpose()?,
        rules: table.knobs("rules"),
        opponents: opponents(&mut table, game, brief)?,
        figure: table.text("figure"),
        target: table.number("target"),
        every: table.count("every"),
        matches: table.count("matches"),
    };
    table.finish();
    Ok(draft)
}

fn number(x: f64) -> Value {
    value(&KnobValue::Number(x))
}

fn text(text: &str) -> Value {
    Value::from(text)
}

/// The brief of an evolution with every default filled in. Reading it again gives the same search.
pub(super) fn write(own: &Evolve) -> String {
    let ground = &own.ground;
    let mut out = format!(
        "kind = \"evolve\"\ngame = {}\nlevel = {}\nconfidence = {}\nseed = {}\nseeds = {}\nmatches = {}\nblocks = {}\n\
         fresh_blocks = {}\nstagnation = {}\nproof = {}\nin_turn = {}\n\n[rules]\n{}",
        text(&ground.game),
        text(&ground.level.to_string()),
        Value::from(ground.confidence),
        ground.seed,
        own.seeds,
        own.matches,
        own.blocks,
        own.fresh_blocks,
        own.stagnation,
        own.proof,
        own.in_turn,
        knobs(&ground.rules),
    );
    write_subject(own, &mut out);
    let _ = write!(out, "\n[method]\nname = {}\n{}", text(own.method.name.name()), knobs(&own.method.knobs));
    for niche in &own.method.niches {
        let (measure, low, high) = (text(&niche.measure), number(niche.low), number(niche.high));
        let _ = write!(out, "\n[[niche]]\nmeasure = {measure}\nfrom = {low}\nto = {high}\ncount = {}\n", niche.count);
    }
    for term in &own.terms {
        let _ = write!(out, "\n[[term]]\nfigure = {}\nweight = {}\n", text(&term.figure), number(term.weight));
        if let Some(missing) = term.missing {
            let _ = writeln!(out, "missing = {}", number(missing));
        }
    }
    write_opponents("opponent", &own.opponents, &mut out);
    if let Some(rivals) = &own.rivals {
        let _ = write!(
            out,
            "\n[rivals]\npopulations = {}\ncurrent = {}\npast = {}\nhall_of_fame = {}\n",
            rivals.populations, rivals.current, rivals.past, rivals.hall_of_fame
        );
    }
    let yardstick = &own.yardstick;
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
    let _ = writeln!(out, "rules = {}", inline_knobs(&yardstick.rules));
    write_opponents("yardstick.opponent", &yardstick.opponents, &mut out);
    out
}

fn write_subject(own: &Evolve, out: &mut String) {
    let candidate = &own.candidate;
    let given: &Knobs = &candidate.given;
    let _ = write!(out, "\n[subject]\nagent = {}\nknobs = {}\n", text(&candidate.agent), inline_knobs(given));
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
        Shape::Graph { .. } => {}
        Shape::Tape { steps, .. } => {
            let _ = writeln!(out, "steps = {steps}");
        }
    }
}

fn write_opponents(list: &str, opponents: &[Entrant], out: &mut String) {
    for own in opponents {
        let _ = write!(out, "\n[[{list}]]\nname = {}\n{}", text(&own.name), agent(own));
    }
}
