//! `tune`: knob values that meet targets, rung by rung, proved; or a sheet measured again.

use std::path::Path;

use inkpot_core::GameSource;
use inkpot_lab::{Place, Sheet, StudyKind, StudyPlan, StudySummary};
use inkpot_ledger::Study;

use super::of_kind;
use crate::args::TuneArgs;
use crate::briefs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::input;
use crate::kinds::fit::STANDIN;
use crate::kinds::tune::words;
use crate::source::Source;
use crate::study::{self, Making};
use crate::{game_file, hint, level, output, spec};

pub(super) fn run(args: &TuneArgs, desk: &Desk) -> Result<(), Failure> {
    if args.schema {
        desk.print_json(&Sheet::schema());
        return Ok(());
    }
    if let Some(path) = &args.verify {
        return verify(path, args, desk);
    }
    let Some(path) = &args.brief else {
        let example = hint::command(["tune", "briefs/ladder.toml"]);
        return Err(Failure::wrong("a brief or a sheet is missing", format!("name one, as in {example}")));
    };
    let (text, parsed) = match &args.fit_standin {
        Some(log) => briefs::load_with_log(path, log, desk)?,
        None => briefs::load(path, desk)?,
    };
    let (kind, what) = match args.fit_standin {
        Some(_) => (StudyKind::Fit, "a log is fitted by a brief of its own kind"),
        None => (StudyKind::Tune, "this is not a tuning"),
    };
    of_kind(&parsed, kind, what, path)?;
    if args.print_brief {
        desk.print(study::resolved(&parsed, desk)?);
        return Ok(());
    }
    let (made, summary) = study::make_asked(&parsed, &text, args.name.as_deref(), desk)?;
    let written = args.out.as_deref().map_or(Ok(()), |out| output::write(out, made.read_text(STANDIN)?));
    study::finish(&made, &summary, written, desk)
}

fn verify(path: &Path, args: &TuneArgs, desk: &Desk) -> Result<(), Failure> {
    let mut sheet = read_sheet(path)?;
    let before = sheet.clone();
    if let Some(text) = &args.rules {
        let rules = spec::assignments(text, text)?;
        sheet.rules = rules.over(&sheet.rules);
    }
    if let Some(seed) = args.seed {
        sheet.proof.seed = seed;
    }
    let base = path.parent().unwrap_or(Path::new(""));
    let game = game_of(&sheet, args.game.as_deref(), desk)?;
    let (made, summary) = measure_again(&sheet, &game, base, args.name.as_deref(), desk)?;
    if !desk.json && !desk.quiet {
        desk.print(format!("{}\n", words::changed(&before, &sheet)));
    }
    study::print(&made, &summary, desk)?;
    let Some(tuning) = summary.tune() else { return Ok(()) };
    if !desk.json {
        desk.print(words::against(&before, tuning));
    }
    words::requirement(tuning)
}

/// Returns the game of a sheet: a game of the program, or that of a file.
fn game_of(sheet: &Sheet, file: Option<&str>, desk: &Desk) -> Result<GameSource, Failure> {
    let Some(file) = file else { return Ok(sheet.game.as_str().into()) };
    let game = game_file::source(file, Path::new(""), &desk.registry)?;
    if game.name() == sheet.game {
        return Ok(game);
    }
    let help = format!("name the file of `{}`, or leave --game out", sheet.game);
    Err(Failure::wrong(format!("{file} holds the game `{}`, and the sheet is of `{}`", game.name(), sheet.game), help))
}

/// Reads a sheet in either format.
pub(crate) fn read_sheet(path: &Path) -> Result<Sheet, Failure> {
    let text = input::text(path)?;
    let wrong = |error: String| {
        Failure::wrong(
            format!("{} is not a difficulty sheet: {}", path.display(), error.trim_end()),
            format!(
                "{} writes one, {} prints what one holds",
                hint::command(["tune", "BRIEF"]),
                hint::command(["tune", "--schema"])
            ),
        )
    };
    if path.extension().is_some_and(|ending| ending == "json") {
        serde_json::from_str(&text).map_err(|error| wrong(error.to_string()))
    } else {
        let value: toml::Value = toml::from_str(&text).map_err(|error| wrong(error.to_string()))?;
        if let Some(place) = no_number(&value, "") {
            return Err(wrong(format!("`{place}` is not a finite number")));
        }
        toml::from_str(&text).map_err(|error| wrong(error.to_string()))
    }
}

/// The key of the first number in a value that is infinite or none at all.
fn no_number(value: &toml::Value, key: &str) -> Option<String> {
    match value {
        toml::Value::Float(x) => (!x.is_finite()).then(|| key.trim_start_matches('.').to_string()),
        toml::Value::Array(items) => {
            items.iter().enumerate().find_map(|(place, item)| no_number(item, &format!("{key}[{place}]")))
        }
        toml::Value::Table(table) => table.iter().find_map(|(name, item)| no_number(item, &format!("{key}.{name}"))),
        _ => None,
    }
}

/// Makes a study that measures a sheet again; a level file that it names is looked up from `base`.
fn measure_again(
    sheet: &Sheet,
    game: &GameSource,
    base: &Path,
    name: Option<&str>,
    desk: &Desk,
) -> Result<(Study, StudySummary), Failure> {
    let level = level::typed(&sheet.level, game, base, desk)?;
    let plan = StudyPlan::proving(sheet, game, level, &desk.registry).map_err(|problems| {
        Source::Arguments([(Place::default(), "the difficulty sheet".into())].into()).report(&problems, desk.color_err)
    })?;
    study::make_as(&plan, Making { brief: &sheet.proof.brief, resolved: None, name, word: "verify" }, desk)
}
