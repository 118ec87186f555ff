//! Printed output: tables and sentences, the same for fresh and stored studies.

pub(crate) mod asked;
pub(crate) mod costs;
pub(crate) mod describe;
pub(crate) mod entrants;
pub(crate) mod format;
pub(crate) mod measures;
pub(crate) mod people;
pub(crate) mod study_view;
pub(crate) mod table;
pub(crate) mod thoughts;
