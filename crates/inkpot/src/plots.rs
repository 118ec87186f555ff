//! The figures of a study: which fit its kind, drawn into its folder or by name.

use std::path::{Path, PathBuf};

use inkpot_figures::Drawing;
use inkpot_lab::StudySummary;
use inkpot_ledger::Study;

use crate::desk::Desk;
use crate::failure::Failure;
use crate::figure_name::Name;
use crate::figures::{Fitting, Gallery, distributions};
use crate::{kinds, output};

/// Pixels a unit of a PNG: sharp on a screen of high density.
const PNG_SCALE: f32 = 2.0;

/// The gallery of a complete study; `measures` names those to show.
pub(crate) fn gallery<'a>(
    study: &'a Study,
    summary: &'a StudySummary,
    measures: &[String],
    desk: &'a Desk,
) -> Result<Gallery<'a>, Failure> {
    Gallery::new(study, summary, kinds::of(summary).headline(summary), measures, desk)
}

/// The figures that fit the study.
fn fitting<'g>(gallery: &'g Gallery) -> Result<Vec<Fitting<'g>>, Failure> {
    kinds::of(gallery.summary).figures(gallery)
}

/// Draws all that fit, in order.
pub(crate) fn drawings(gallery: &Gallery) -> Result<Vec<(Name, Drawing)>, Failure> {
    // The rows are read once for all distributions.
    let fitting = fitting(gallery)?;
    let names: Vec<Name> = fitting.iter().map(|figure| figure.name).collect();
    let (spread, others): (Vec<Fitting>, Vec<Fitting>) =
        fitting.into_iter().partition(|figure| figure.name.is_spread());
    let mut drawings =
        others.iter().map(|figure| Ok((figure.name, (figure.draw)()?))).collect::<Result<Vec<_>, Failure>>()?;
    let spread: Vec<Name> = spread.iter().map(|figure| figure.name).collect();
    for (name, distribution) in spread.iter().zip(distributions(gallery, &spread)?) {
        drawings.push((*name, distribution.draw()));
    }
    drawings.sort_by_key(|(name, _)| names.iter().position(|other| other == name));
    Ok(drawings)
}

/// Draws all that fit into the study's folder, as SVG and PNG.
pub(crate) fn draw_all(gallery: &Gallery, study: &Study) -> Result<Vec<PathBuf>, Failure> {
    let mut files = Vec::new();
    for (name, drawing) in &drawings(gallery)? {
        files.extend(keep(drawing, &name.word(), study)?);
    }
    Ok(files)
}

/// Writes a drawing into the study's folder, as SVG and PNG.
pub(crate) fn keep(drawing: &Drawing, name: &str, study: &Study) -> Result<[PathBuf; 2], Failure> {
    let files = ["svg", "png"].map(|ending| format!("figures/{name}.{ending}"));
    for file in &files {
        study.write(file, &bytes(drawing, Path::new(file))?)?;
    }
    Ok(files.map(|file| study.folder().join(file)))
}

/// Draws one figure.
pub(crate) fn draw(gallery: &Gallery, name: Name) -> Result<Drawing, Failure> {
    let fitting = fitting(gallery)?;
    if let Some(figure) = fitting.iter().find(|figure| figure.name == name) {
        return (figure.draw)();
    }
    let names: Vec<String> = fitting.iter().map(|figure| figure.name.word()).collect();
    let (kind, study) = (gallery.summary.kind().name(), &gallery.summary.study);
    Err(Failure::wrong(
        format!("the figure `{}` does not fit the {kind} `{study}`", name.word()),
        format!("these do: {}", names.join(", ")),
    ))
}

/// The bytes of a drawing in the format that the file's ending says.
pub(crate) fn bytes(drawing: &Drawing, path: &Path) -> Result<Vec<u8>, Failure> {
    match path.extension().and_then(|ending| ending.to_str()) {
        Some("svg") => Ok(drawing.svg().as_bytes().to_vec()),
        Some("png") => drawing.png(PNG_SCALE).map_err(|error| Failure::Failed(error.to_string())),
        _ => Err(Failure::wrong(
            format!("{} is neither SVG nor PNG", path.display()),
            "give the file a name that ends in .svg or .png",
        )),
    }
}

/// Writes a drawing to a file in the format that its ending says.
pub(crate) fn save(drawing: &Drawing, path: &Path) -> Result<(), Failure> {
    output::write(path, bytes(drawing, path)?)
}
