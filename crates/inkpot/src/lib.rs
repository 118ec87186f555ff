//! The program: arguments, briefs, tables, progress.
