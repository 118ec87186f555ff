//! The widest vectors that the machine has, chosen when the program runs.

use pulp::Arch;

/// Does this with the widest vectors there are, told how many numbers they hold. What is to profit has to be inlined. No
/// product and sum is fused, so the bits are the same on every machine.
#[inline(always)]
pub(super) fn dispatch<R>(work: impl FnOnce(usize) -> R) -> R {
    let arch = Arch::new();
    let lanes = if matches!(arch, Arch::Scalar) { 4 } else { WIDE };
    arch.dispatch(
        #[inline(always)]
        || work(lanes),
    )
}

/// Single numbers of the widest vector beyond the least that every machine of this kind has.
#[cfg(target_arch = "x86_64")]
const WIDE: usize = 8;
#[cfg(not(target_arch = "x86_64"))]
const WIDE: usize = 4;
