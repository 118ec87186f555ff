//! `pool`: a field for many studies, with running ratings.

use std::path::Path;

use inkpot_stats::Running;
use serde_json::json;

use crate::args::PoolVerb;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::pool::Pool;
use crate::show::format::{count, counted, whole};
use crate::show::table::{Column, table};
use crate::stored;

pub(super) fn run(verb: &PoolVerb, desk: &Desk) -> Result<(), Failure> {
    match verb {
        PoolVerb::Show(args) => {
            show(&args.pool, &Pool::load(&args.pool, desk)?, desk);
            Ok(())
        }
        PoolVerb::Add(args) => {
            let mut pool = Pool::load(&args.pool, desk)?;
            for name in &args.studies {
                let stored = desk.ledger.open(name)?;
                let (_, plan) = stored::open(&stored, desk)?;
                pool.add(&stored::stored_summary(&stored, desk)?, &plan)?;
            }
            pool.save()?;
            show(&args.pool, &pool, desk);
            Ok(())
        }
    }
}

/// 95 % of the time the true rating lies within so many deviations.
const WITHIN: f64 = 1.96;

fn show(path: &Path, pool: &Pool, desk: &Desk) {
    let mut ratings: Vec<(String, Running)> = pool.ratings().into_iter().collect();
    ratings.sort_by(|a, b| b.1.rating.total_cmp(&a.1.rating));
    let matches: u64 = pool.added.iter().map(|added| added.matches).sum();
    if desk.json {
        let row = |(name, own): &(String, Running)| {
            let margin = WITHIN * own.deviation;
            json!({
                "name": name,
                "rating": { "value": own.rating, "low": own.rating - margin, "high": own.rating + margin },
                "deviation": own.deviation, "volatility": own.volatility,
            })
        };
        let studies: Vec<&str> = pool.added.iter().map(|added| added.study.as_str()).collect();
        desk.print_json(&json!({
            "pool": path, "game": pool.game, "anchor": pool.anchor, "studies": studies, "matches": matches,
            "ratings": ratings.iter().map(row).collect::<Vec<_>>(),
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
        .map(|(index, (name, own))| {
            let margin = WITHIN * own.deviation;
            vec![
                count(index as u64 + 1),
                name.clone(),
                whole(own.rating),
                format!("{} to {}", whole(own.rating - margin), whole(own.rating + margin)),
                format!("{:.3}", own.volatility),
            ]
        })
        .collect();
    let columns = vec![
        Column::figure(""),
        Column::text("Entrant"),
        Column::figure("Rating"),
        Column::figure("Interval"),
        Column::figure("Volatility"),
    ];
    desk.print(format!("{head}\n\n{}", table(columns, rows, desk.color)));
    let zero =
        pool.anchor.as_deref().map_or("a newcomer to the pool".to_string(), |anchor| format!("{anchor}, the anchor"));
    desk.print(format!("\nRating 0 is {zero}. Running ratings (Glicko-2), each study a period; intervals 95 %."));
    if pool.added.is_empty() {
        desk.print("note: no study was added yet; `inkpot pool add` does");
    }
}
