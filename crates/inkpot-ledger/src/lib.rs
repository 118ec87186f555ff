//! Study folders: rows, manifest, resume, export, verify.
