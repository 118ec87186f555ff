//! The entrants of a brief, a pool or an agent file.

use inkpot_lab::EntrantDraft;

use super::reader::Reader;

/// An `[[entrant]]`: an agent, or the file or files of one.
pub(crate) fn entrant_or_file(mut table: Reader) -> (EntrantDraft, Option<String>) {
    let file = table.text("file");
    let agent = table.text("agent");
    if file.is_some() == agent.is_some() {
        let what = if file.is_some() { "`agent` and `file` are both given" } else { "the key `agent` is missing" };
        table.problem("", what, "add one line like `agent = \"fencer\"`, or `file = \"agents/*.toml\"`");
    }
    let file = file.filter(|_| agent.is_none());
    (fields(table, agent), file)
}

/// An `[[entrant]]` of a file that names agents only.
pub(crate) fn entrant(mut table: Reader) -> EntrantDraft {
    let agent = table.needed_text("agent", "`agent = \"fencer\"`");
    fields(table, agent)
}

fn fields(mut table: Reader, agent: Option<String>) -> EntrantDraft {
    let draft = EntrantDraft {
        name: table.text("name"),
        agent: agent.unwrap_or_default(),
        knobs: table.knobs("knobs"),
        vary: table.table("vary").map(Reader::ranges).unwrap_or_default(),
    };
    table.finish();
    draft
}
