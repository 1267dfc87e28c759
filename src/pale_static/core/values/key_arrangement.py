"""Move, copy, reverse, scale in time and distribute keys, as pure functions.

Each takes the keys of one value, the numbers of the chosen ones (by default all), and an effect's
length, because anchored keys have a time only then. Each gives new keys in time order; a key keeps
its anchor.
"""

from __future__ import annotations

from collections.abc import Collection

from ..faults import Fault
from ..time.easing import Bezier, Ease, Named
from ..time.timing import Moment
from .value import Anchor, Key, Keys, key_seconds


def time_for(anchor: Anchor, seconds: float, moment: Moment) -> float:
    """The time that a key with this anchor needs to lie ``seconds`` after the first frame."""
    if anchor == "start":
        return max(0.0, seconds)
    if anchor == "end":
        return max(0.0, moment.span - seconds)
    return max(0.0, seconds / moment.span) if moment.span > 0 else 0.0


def _at(key: Key, seconds: float, moment: Moment) -> Key:
    held = min(max(seconds, 0.0), moment.span)
    return key.model_copy(update={"time": round(time_for(key.anchor, held, moment), 9)})


def _picked(keys: Keys, picks: Collection[int] | None) -> list[int]:
    chosen = sorted(set(range(len(keys.keys)) if picks is None else picks))
    for place in chosen:
        if not 0 <= place < len(keys.keys):
            raise Fault(f"There is no key {place + 1}: the value has {len(keys.keys)}.")
    return chosen


def _ordered(found: list[Key], moment: Moment) -> Keys:
    # Stable: keys at one time keep the order in which they stand.
    return Keys(keys=tuple(sorted(found, key=lambda key: key_seconds(key, moment))))


def moved(keys: Keys, seconds: float, moment: Moment, picks: Collection[int] | None = None) -> Keys:
    """Keys moved later (or earlier), all by the same number of seconds.

    The run stops at the ends of the effect as a whole: it never closes up against them.
    """
    chosen = _picked(keys, picks)
    places = [key_seconds(keys.keys[k], moment) for k in chosen]
    if not places:
        return keys
    by = min(max(seconds, -min(places)), moment.span - max(places))
    moved_keys = list(keys.keys)
    for k, place in zip(chosen, places, strict=True):
        moved_keys[k] = _at(moved_keys[k], place + by, moment)
    return _ordered(moved_keys, moment)


def copied(
    keys: Keys, seconds: float, moment: Moment, picks: Collection[int] | None = None
) -> Keys:
    """Keys with copies of the chosen ones, the first of which lies at ``seconds``.

    A copy replaces a key at its time (within a tenth of a frame).

    Raises
    ------
    Fault
        If the copies would pass the end of the effect.
    """
    chosen = _picked(keys, picks)
    if not chosen:
        return keys
    places = [key_seconds(keys.keys[k], moment) for k in chosen]
    first, last = min(places), max(places)
    if seconds < 0 or seconds + last - first > moment.span + 1e-9:
        raise Fault(
            f"Copied to {seconds:.4g} s the keys would reach past the effect's "
            f"{moment.span:.4g} s. Copy fewer, or to an earlier place."
        )
    made = [
        _at(keys.keys[k], seconds + place - first, moment)
        for k, place in zip(chosen, places, strict=True)
    ]
    near = 0.1 / float(moment.rate)
    landed = [key_seconds(key, moment) for key in made]
    kept = [
        key
        for key in keys.keys
        if all(abs(key_seconds(key, moment) - place) > near for place in landed)
    ]
    return _ordered(kept + made, moment)


def backwards(ease: Ease) -> Ease:
    """The ease of a segment that runs the other way: 1 − ease(1 − t)."""
    if ease == "hold":
        return "jump"
    if ease == "jump":
        return "hold"
    if isinstance(ease, Bezier):
        x1, y1, x2, y2 = ease.bezier
        mirrored = (1 - x2, 1 - y2, 1 - x1, 1 - y1)
        return Bezier(bezier=tuple(round(part, 12) for part in mirrored))
    if isinstance(ease, Named):
        return Named(into=ease.out, out=ease.into)
    return ease


_OTHER: dict[Anchor, Anchor] = {"share": "share", "start": "end", "end": "start"}


def reversed_keys(keys: Keys) -> Keys:
    """The whole movement played backwards, at any length: v(s) becomes v(span − s).

    Anchors to the start become anchors to the end and the reverse; every ease is reversed with its
    segment.
    """
    turned_keys = []
    for k in range(len(keys.keys) - 1, -1, -1):
        key = keys.keys[k]
        ease = backwards(keys.keys[k - 1].ease) if k else "linear"
        time = 1 - key.time if key.anchor == "share" else key.time
        turned_keys.append(
            key.model_copy(
                update={
                    "anchor": _OTHER[key.anchor], "time": round(max(0.0, time), 12), "ease": ease,
                }
            )
        )  # fmt: skip
    return Keys(keys=tuple(turned_keys))


def turned(keys: Keys, moment: Moment, picks: Collection[int] | None = None) -> Keys:
    """The chosen keys in reverse order between the first and the last of them; their anchors
    stay."""
    chosen = _picked(keys, picks)
    if len(chosen) < 2:
        return keys
    if chosen != list(range(chosen[0], chosen[-1] + 1)):
        raise Fault(
            "Only neighbouring keys can be reversed. Choose all between the first and last."
        )
    places = [key_seconds(keys.keys[k], moment) for k in chosen]
    first, last = places[0], places[-1]
    turned_keys = list(keys.keys)
    for n, k in enumerate(chosen):
        mirror = chosen[-1 - n]
        source = keys.keys[mirror]
        leads = keys.keys[chosen[-1]].ease
        ease = backwards(keys.keys[mirror - 1].ease) if n < len(chosen) - 1 else leads
        key = _at(keys.keys[k], first + last - places[-1 - n], moment)
        turned_keys[k] = key.model_copy(update={"value": source.value, "ease": ease})
    return _ordered(turned_keys, moment)


def scaled(
    keys: Keys,
    factor: float,
    moment: Moment,
    picks: Collection[int] | None = None,
    about: float | None = None,
) -> Keys:
    """Distances in time times ``factor``, about a moment in seconds (the first key by default).

    Raises
    ------
    Fault
        If the factor is not above 0, or a key would pass an end of the effect.
    """
    if not factor > 0:
        raise Fault(f"Keys are scaled in time by a factor above 0. It got {factor:g}.")
    chosen = _picked(keys, picks)
    places = {k: key_seconds(keys.keys[k], moment) for k in chosen}
    if not places:
        return keys
    still = min(places.values()) if about is None else about
    scaled_keys = list(keys.keys)
    for k, place in places.items():
        goes = still + (place - still) * factor
        if not -1e-9 <= goes <= moment.span + 1e-9:
            raise Fault(
                f"Scaled by {factor:g} key {k + 1} would lie at {goes:.4g} s, outside the effect's "
                f"{moment.span:.4g} s. Take a smaller factor."
            )
        scaled_keys[k] = _at(scaled_keys[k], goes, moment)
    return _ordered(scaled_keys, moment)


def distributed(keys: Keys, moment: Moment, picks: Collection[int] | None = None) -> Keys:
    """The chosen keys at even distances between the first and the last of them."""
    chosen = _picked(keys, picks)
    if len(chosen) < 3:
        return keys
    first, last = (key_seconds(keys.keys[k], moment) for k in (chosen[0], chosen[-1]))
    spread_keys = list(keys.keys)
    for n, k in enumerate(chosen):
        spread_keys[k] = _at(spread_keys[k], first + (last - first) * n / (len(chosen) - 1), moment)
    return _ordered(spread_keys, moment)
