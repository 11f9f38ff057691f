/// The middle of some figures: of an even number the mean of the two in the middle; `None` of none.
pub(crate) fn median(mut all: Vec<f64>) -> Option<f64> {
    all.sort_by(f64::total_cmp);
    match all.len() {
        0 => None,
        len => Some(0.5 * (all[(len - 1) / 2] + all[len / 2])),
    }
}

#[cfg(test)]
mod tests {
    use super::median;

    #[test]
    fn the_middle_is_the_middle() {
        let of = |all: &[f64]| median(all.to_vec());
        assert_eq!((of(&[]), of(&[3.0]), of(&[5.0, 1.0])), (None, Some(3.0), Some(3.0)));
        assert_eq!((of(&[9.0, 1.0, 2.0]), of(&[4.0, 1.0, 2.0, 9.0])), (Some(2.0), Some(3.0)));
    }
}
