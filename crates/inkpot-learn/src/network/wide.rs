//! The widest vectors that the machine has, chosen when the program runs.

use pulp::Arch;

/// Runs `work` with the widest vectors of the machine and tells it how many numbers one holds. Only code that is inlined into
/// `work` profits. Products and sums are not fused, so every machine gives the same bits.
#[inline(always)]
pub(super) fn dispatch<R>(work: impl FnOnce(usize) -> R) -> R {
    let arch = Arch::new();
    let lanes = match arch {
        #[cfg(target_arch = "x86_64")]
        Arch::V3(_) => 8,
        #[cfg(target_arch = "x86_64")]
        Arch::V4(_) => 16,
        _ => 4,
    };
    arch.dispatch(
        #[inline(always)]
        || work(lanes),
    )
}
