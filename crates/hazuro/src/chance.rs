//! Numbers by chance, the same ones for the same seed.

/// Numbers by chance. Source: S. Vigna's public-domain `SplitMix64`, after G. L. Steele, D. Lea,
/// C. H. Flood, "Fast Splittable Pseudorandom Number Generators", 2014.
///
/// ```
/// use hazuro::Chance;
/// let (mut one, mut other) = (Chance::new(7), Chance::new(7));
/// let number = one.next();
/// assert!((0.0..1.0).contains(&number));
/// assert_eq!(number, other.next());
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Chance(u64);

impl Chance {
    /// Begins with a seed.
    pub fn new(seed: u64) -> Self {
        Self(seed)
    }

    /// The next number, from 0 to below 1.
    #[expect(clippy::should_implement_trait, reason = "numbers by chance never end")]
    pub fn next(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^= z >> 31;
        (z >> 11) as f64 / (1_u64 << 53) as f64
    }

    /// The next number, from `-most` to below `most`.
    pub fn around(&mut self, most: f64) -> f64 {
        (self.next() * 2.0 - 1.0) * most
    }
}
