"""The rules of fuses, links and breakers, by the words of their check."""

from collections.abc import Mapping

from percorso.findings.rules import Rule, register

PROTECTS, SURVIVES = "protects the wire", "wire survives the short"
CLOSE, SELECTIVE = "close to its source", "opens before the one in front"
SELECTIVE_RATIO = 1.6  # of two fuses in series, so that the smaller opens first; IEC 60269, from memory
ANOTHER_RATING = "the rating that does everything, or the circuit sized anew"
GUARDS: Mapping[str, Rule] = {
    check: register(Rule(*told))
    for check, *told in (
        (
            "carries the load",
            "guard-too-small",
            "a fuse, link or breaker is too small for its load",
            "its lasting load is over four fifths of its rating",
            "common practice, a house rule",
            ANOTHER_RATING,
        ),
        (
            "carries the alternator",
            "guard-below-alternator",
            "a charge fuse is smaller than what the alternator can make",
            "its rating is under the alternator's most",
            "common practice",
            ANOTHER_RATING,
        ),
        (
            "holds the start",
            "guard-opens-at-start",
            "a fuse may open when its load starts",
            "the inrush is not over before the earliest it may open",
            "ISO 8820-3, from memory",
            ANOTHER_RATING,
        ),
        (
            PROTECTS,
            "guard-does-not-protect",
            "a guard does not protect the wire behind it",
            "its rating is over the ampacity of the thinnest wire that no smaller one guards",
            "IEC 60364-4-41, from memory; links four AWG numbers thinner, common practice",
            ANOTHER_RATING,
        ),
        ("is short", "link-too-long", "a fusible link is too long", "over 230 mm", "common practice", "150 mm of it"),
        (
            "opens on a short at the far end",
            "guard-too-slow",
            "a guard would not open in time on a short at the device",
            "what flows into a dead short there does not open it within 5 s and is more than the wires are good for",
            "IEC 60364-4-41, from memory",
            ANOTHER_RATING,
        ),
        (
            SURVIVES,
            "wire-harmed-by-short",
            "a wire is harmed before its guard opens",
            "more heat passes than it takes up",
            "IEC 60364-4-43, from memory",
            ANOTHER_RATING,
        ),
        (
            SELECTIVE,
            "guards-not-apart",
            "the fuse in front may open first",
            f"it has less than {SELECTIVE_RATIO:g} times the rating",
            "IEC 60269, from memory",
            "the next rating in front that its wires are good for",
        ),
    )
}
