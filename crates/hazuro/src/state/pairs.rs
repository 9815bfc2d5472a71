//! Maps with keys that not every format has, written as lists of pairs.

use std::collections::BTreeMap;

use serde::{Deserialize, Deserializer, Serialize, Serializer};

/// Writes a map as a list of pairs.
pub(crate) fn serialize<K: Serialize, V: Serialize, S: Serializer>(
    map: &BTreeMap<K, V>,
    to: S,
) -> Result<S::Ok, S::Error> {
    to.collect_seq(map)
}

/// Reads a map from a list of pairs.
pub(crate) fn deserialize<'de, K, V, D>(from: D) -> Result<BTreeMap<K, V>, D::Error>
where
    K: Deserialize<'de> + Ord,
    V: Deserialize<'de>,
    D: Deserializer<'de>,
{
    Ok(Vec::<(K, V)>::deserialize(from)?.into_iter().collect())
}

/// As a list of pairs, with a time before it.
pub(crate) mod beside_a_time {
    use std::collections::BTreeMap;

    use serde::{Deserialize, Deserializer, Serialize, Serializer};

    use crate::Time;

    /// Writes both.
    pub(crate) fn serialize<K: Serialize, V: Serialize, S: Serializer>(
        (time, map): &(Time, BTreeMap<K, V>),
        to: S,
    ) -> Result<S::Ok, S::Error> {
        (time, map.iter().collect::<Vec<_>>()).serialize(to)
    }

    /// Reads both.
    pub(crate) fn deserialize<'de, K, V, D>(from: D) -> Result<(Time, BTreeMap<K, V>), D::Error>
    where
        K: Deserialize<'de> + Ord,
        V: Deserialize<'de>,
        D: Deserializer<'de>,
    {
        let (time, pairs) = <(Time, Vec<(K, V)>)>::deserialize(from)?;
        Ok((time, pairs.into_iter().collect()))
    }
}
