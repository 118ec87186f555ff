//! Studies: plan, blocks, rows, summary.
