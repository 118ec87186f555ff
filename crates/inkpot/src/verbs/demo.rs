//! `demo`: the whole example on the shipped briefs.

use crate::args::DemoArgs;
use crate::demo;
use crate::desk::Desk;
use crate::failure::Failure;

pub(super) fn run(args: &DemoArgs, desk: &Desk) -> Result<(), Failure> {
    demo::run(args.out.as_deref(), args.quick, desk)
}
