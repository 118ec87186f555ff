//! Counts in words, for notes, messages and every output.

/// Writes a count in groups of three digits: `1,234,567`.
pub fn count(n: u64) -> String {
    let digits = n.to_string();
    let groups: Vec<&str> = digits
        .as_bytes()
        .rchunks(3)
        .rev()
        .map(|group| std::str::from_utf8(group).expect("decimal digits are ASCII"))
        .collect();
    groups.join(",")
}

/// Writes a count with its noun: `1 match`, `2 matches`.
pub fn counted(n: u64, singular: &str, plural: &str) -> String {
    format!("{} {}", count(n), if n == 1 { singular } else { plural })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_takes_the_singular_and_thousands_are_grouped() {
        let of = |n| counted(n, "match", "matches");
        assert_eq!(
            [of(0), of(1), of(2), of(1_000), of(1_234_567)].join(", "),
            "0 matches, 1 match, 2 matches, 1,000 matches, 1,234,567 matches"
        );
    }
}
