//! `new`: a folder to start from.

use std::fs;
use std::path::Path;

use crate::args::NewArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::{hint, output};

/// The shipped briefs by name.
pub(crate) const BRIEFS: [(&str, &str); 14] = [
    ("how-hard.toml", include_str!("../../briefs/how-hard.toml")),
    ("skill.toml", include_str!("../../briefs/skill.toml")),
    ("ladder.toml", include_str!("../../briefs/ladder.toml")),
    ("crowd.toml", include_str!("../../briefs/crowd.toml")),
    ("calm.toml", include_str!("../../briefs/calm.toml")),
    ("pits.toml", include_str!("../../briefs/pits.toml")),
    ("people.toml", include_str!("../../briefs/people.toml")),
    ("people.csv", include_str!("../../briefs/people.csv")),
    ("birds.toml", include_str!("../../briefs/birds.toml")),
    ("better.toml", include_str!("../../briefs/better.toml")),
    ("nerves.toml", include_str!("../../briefs/nerves.toml")),
    ("grades.toml", include_str!("../../briefs/grades.toml")),
    ("slips.toml", include_str!("../../briefs/slips.toml")),
    ("field.toml", include_str!("../../briefs/field.toml")),
];

const README: &str = include_str!("../../briefs/README.md");

pub(super) fn run(args: &NewArgs, desk: &Desk) -> Result<(), Failure> {
    let folder = &args.folder;
    let occupied = fs::read_dir(folder).is_ok_and(|mut entries| entries.next().is_some()) || folder.is_file();
    if occupied {
        return Err(Failure::wrong(
            format!("{} is there already and not empty", folder.display()),
            "name a folder that does not exist yet",
        ));
    }
    write_briefs(folder)?;
    put(&folder.join("README.md"), README)?;
    let program = hint::program();
    desk.print(format!(
        "{} is ready. Next:\n  cd {}\n  {program} check briefs/how-hard.toml\n  {program} run briefs/how-hard.toml",
        folder.display(),
        folder.display()
    ));
    Ok(())
}

/// Writes the shipped briefs into `folder/briefs`.
pub(crate) fn write_briefs(folder: &Path) -> Result<(), Failure> {
    for (name, text) in BRIEFS {
        put(&folder.join("briefs").join(name), text)?;
    }
    Ok(())
}

fn put(path: &Path, text: &str) -> Result<(), Failure> {
    output::write(path, text)
}
