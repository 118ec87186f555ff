//! A map of elites: its niches as agent files and as a figure.

use inkpot_figures::{MatrixOf, Surface, Words};
use inkpot_lab::{MapAxis, MapFound, NicheFound, SearchFound, SearchProof};

use super::tables::label;
use super::words::{agent_of, figure};
use crate::figures::{Gallery, estimate};
use crate::show::format::{capital, counted, said, said_figure, significant};

/// Describes the filled niches for the terminal.
pub(super) fn lines(map: &MapFound) -> String {
    let [across, up] = &map.measures;
    format!(
        "\n{} of {} are filled, of {} that any repetition filled; {} of the elites do on fresh blocks what their niches \
         say. niche-A-B.toml is the elite of niche A of `{}` and B of `{}`: an agent file too.",
        map.niches.len(),
        counted((across.count * up.count) as u64, "niche", "niches"),
        map.reached,
        map.in_place(),
        across.measure,
        up.measure
    )
}

/// The elites as agent files.
pub(super) fn files(proof: &SearchProof, map: &MapFound) -> Vec<(String, String)> {
    let file = |niche_found: &NicheFound| {
        let measured = map.measures.iter().zip(&niche_found.measured);
        let measured =
            measured.map(|(axis, interval)| Some(format!("{} {}", axis.measure, said_figure(interval.as_ref()?, ""))));
        let figure_text = niche_found.proved.as_ref().map(|interval| {
            let value = if proof.is_share() { said(interval) } else { said_figure(interval, "") };
            format!("{} {value}", proof.figure())
        });
        let parts: Vec<String> = measured.chain([figure_text]).flatten().collect();
        let head = if parts.is_empty() {
            "# Not proved yet.\n".to_string()
        } else {
            format!("# On fresh blocks: {}.\n", parts.join(", "))
        };
        (niche_found.file(), agent_of(&head, &niche_found.name().replace(' ', "-"), &proof.agent, &niche_found.knobs))
    };
    map.niches.iter().map(file).collect()
}

/// Draws the map, with the proof of each niche's elite.
pub(super) fn niches(map: &MapFound, found: &SearchFound, gallery: &Gallery) -> Surface {
    let [across, up] = &map.measures;
    let middles = |axis: &MapAxis| (0..axis.count).map(|cell| significant(axis.middle(cell), 3)).collect::<Vec<_>>();
    let cell = |up: usize, across: usize| {
        let niche = map.niches.iter().find(|niche| niche.niche == [across, up])?;
        niche.proved.as_ref().map(estimate)
    };
    let cells = (0..up.count).map(|up| (0..across.count).map(|across| cell(up, across)).collect()).collect();
    let values = || map.niches.iter().filter_map(|niche| niche.proved).map(|proof| proof.value);
    let (low, high) = (values().fold(f64::INFINITY, f64::min), values().fold(f64::NEG_INFINITY, f64::max));
    let pale = if found.is_share { "; pale where it cannot be told from 50 %" } else { "" };
    Surface {
        words: Words {
            title: format!(
                "{} of {} niches are filled, each by an agent of its own",
                map.niches.len(),
                across.count * up.count
            ),
            subtitle: format!("{} of the elite of each niche on fresh blocks{pale}", capital(&figure(found))),
            caption: gallery.caption(&format!(
                "Repetition of seed {}; any repetition filled {} niches; {} elites do on fresh blocks what their niches say.",
                found.champion_seed,
                map.reached,
                map.in_place()
            )),
        },
        of: if found.is_share { MatrixOf::Rates } else { MatrixOf::Values { low, high } },
        across: (label(&across.measure, gallery.measures), middles(across)),
        up: (label(&up.measure, gallery.measures), middles(up)),
        cells,
        target: None,
    }
}
