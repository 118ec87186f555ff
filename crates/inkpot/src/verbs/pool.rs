//! `pool`: a field for many studies, rated from all of them jointly.

use std::path::Path;

use inkpot_stats::Interval;
use serde_json::json;

use crate::args::PoolVerb;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::pool::{Adding, Pool};
use crate::show::format::{count, counted, round_percent, whole};
use crate::show::table::{Column, table};
use crate::{hint, output, stored};

pub(super) fn run(verb: &PoolVerb, desk: &Desk) -> Result<(), Failure> {
    match verb {
        PoolVerb::Show(args) => {
            show(&args.pool, &Pool::load(&args.pool, desk)?, desk);
            Ok(())
        }
        PoolVerb::Add(args) => {
            // Who adds at the same time waits, and adds to what this leaves.
            let _alone = args.pool.exists().then(|| output::alone(&args.pool)).transpose()?;
            let mut pool = Pool::load(&args.pool, desk)?;
            let mut changed = false;
            for name in &args.studies {
                let study = desk.ledger.open(name)?;
                let (manifest, plan) = stored::open(&study, desk)?;
                // Its summary says that it is complete.
                stored::stored_summary(&study, desk)?;
                match pool.add(&study, &manifest, &plan, desk.game(&manifest.game)?)? {
                    Adding::Added => changed = true,
                    Adding::Known => desk.say(format!("`{name}` was already added; nothing has changed")),
                }
            }
            if changed {
                pool.save()?;
            }
            show(&args.pool, &pool, desk);
            Ok(())
        }
    }
}

fn show(path: &Path, pool: &Pool, desk: &Desk) {
    let mut ratings = pool.ratings();
    let value = |rating: &Option<Interval>| rating.map_or(f64::NEG_INFINITY, |interval| interval.value);
    ratings.sort_by(|a, b| value(&b.1).total_cmp(&value(&a.1)));
    let matches = pool.matches();
    if desk.json {
        let row = |(name, rating): &(String, Option<Interval>)| json!({ "name": name, "rating": rating });
        let studies: Vec<&str> = pool.added.iter().map(|added| added.study.as_str()).collect();
        desk.print_json(&json!({
            "pool": path, "game": pool.game, "anchor": pool.anchor, "studies": studies, "matches": matches,
            "confidence": pool.confidence(), "ratings": ratings.iter().map(row).collect::<Vec<_>>(),
        }));
        return;
    }
    let studies = counted(pool.added.len() as u64, "study", "studies");
    let head = format!(
        "{}: {} of {}, {studies} added, {} between them.",
        path.display(),
        counted(ratings.len() as u64, "entrant", "entrants"),
        pool.game,
        counted(matches, "match", "matches")
    );
    let rows: Vec<Vec<String>> = ratings
        .iter()
        .enumerate()
        .map(|(index, (name, rating))| {
            let ends = |interval: Interval| {
                if interval.is_exact() {
                    "by choice".into()
                } else {
                    format!("{} to {}", whole(interval.low), whole(interval.high))
                }
            };
            vec![
                count(index as u64 + 1),
                name.clone(),
                rating.map_or_else(|| "not rated yet".into(), |interval| whole(interval.value)),
                rating.map(ends).unwrap_or_default(),
            ]
        })
        .collect();
    let columns =
        vec![Column::figure(""), Column::text("Entrant"), Column::figure("Rating"), Column::figure("Interval")];
    desk.print(format!("{head}\n\n{}", table(columns, rows, desk.color)));
    let zero =
        pool.anchor.as_deref().map_or("the mean of the pool".to_string(), |anchor| format!("{anchor}, the anchor"));
    let level = round_percent(pool.confidence());
    desk.print(format!("\nRating 0 is {zero}. Rated from all studies together; intervals {level}."));
    if pool.added.is_empty() {
        desk.print(format!("note: no study has been added yet; {} adds one", hint::command(["pool", "add"])));
    }
}
