//! JUnit XML: the outcome of a gate in the form that build servers read.

use std::io;
use std::path::Path;

use inkpot_lab::ComparisonSummary;
use quick_xml::Writer;
use quick_xml::events::BytesText;

use crate::failure::Failure;
use crate::kinds::compare::words::{asked, sentence};
use crate::output;

/// Writes the outcome for a build server, if that was asked for.
pub(crate) fn write(
    path: Option<&Path>,
    study: &str,
    comparison: &ComparisonSummary,
    confidence: f64,
) -> Result<(), Failure> {
    let Some(path) = path else { return Ok(()) };
    let text = report(study, comparison, confidence).map_err(|error| Failure::file("write", path, &error))?;
    output::write(path, text)
}

/// Writes one suite of one case, named after the requirement; the case fails if it is not established, and is skipped
/// without one.
fn report(study: &str, comparison: &ComparisonSummary, confidence: f64) -> io::Result<String> {
    let mut writer = Writer::new_with_indent(Vec::new(), b' ', 2);
    let failures = if comparison.met == Some(false) { "1" } else { "0" };
    let skipped = if comparison.met.is_none() { "1" } else { "0" };
    let text = sentence(comparison, confidence);
    let (case, message) = (asked(comparison), text.as_str());
    let suites = writer.create_element("testsuites").with_attributes([("tests", "1"), ("failures", failures)]);
    suites.write_inner_content(|writer| {
        let counts = [("name", study), ("tests", "1"), ("failures", failures), ("errors", "0"), ("skipped", skipped)];
        writer.create_element("testsuite").with_attributes(counts).write_inner_content(|writer| {
            let names = [("classname", "inkpot.compare"), ("name", case.as_str())];
            writer.create_element("testcase").with_attributes(names).write_inner_content(|writer| {
                match comparison.met {
                    Some(true) => {}
                    Some(false) => {
                        let failure = writer.create_element("failure").with_attribute(("message", "not established"));
                        failure.write_text_content(BytesText::new(message))?;
                    }
                    None => {
                        let skipped = writer.create_element("skipped");
                        skipped.with_attribute(("message", "nothing was required")).write_empty()?;
                    }
                }
                writer.create_element("system-out").write_text_content(BytesText::new(message))?;
                Ok(())
            })?;
            Ok(())
        })?;
        Ok(())
    })?;
    let body = String::from_utf8_lossy(&writer.into_inner()).into_owned();
    Ok(format!("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n{body}\n"))
}
