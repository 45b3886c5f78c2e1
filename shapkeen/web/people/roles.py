"""Who may do what: the one table of roles and acts. The README shows it."""

from typing import Final

SEE = "see"
REMARK = "remark"
SIGN = "sign"
WAIVE = "waive"
ADD = "add"
PROMISE = "promise"
MAKE = "make"
SHARE = "share"
TIDY = "tidy"
ARCHIVE = "archive"
HOUSE = "house"
ADMIN = "admin"

ACTS: Final = {
    SEE: "see titles, verdicts, pictures and history; take reports",
    REMARK: "write, answer and close remarks",
    SIGN: "sign an attempt or refuse it",
    WAIVE: "waive a finding, and take a waiver back",
    ADD: "bring in titles, masters and exports; measure",
    PROMISE: "say what is promised, and keep plans",
    MAKE: "make corrected copies, look-up tables, versions and rehearsals",
    SHARE: "make and end review links",
    TIDY: "rename and move; put into the bin and take out of it",
    ARCHIVE: "write archives",
    HOUSE: "keep specifications and stand-ins, which are for all titles",
    ADMIN: "make and close accounts, give roles, end sessions, empty the bin",
}
"""What can be done, in words for pages. ADMIN is no role's: administrators do all of it."""

VIEWER, REVIEWER, EDITOR, ENGINEER = "viewer", "reviewer", "editor", "engineer"

MAY: Final = {
    VIEWER: frozenset({SEE}),
    REVIEWER: frozenset({SEE, REMARK, SIGN, WAIVE, SHARE}),
    EDITOR: frozenset({SEE, REMARK, ADD, PROMISE, MAKE, SHARE, TIDY, ARCHIVE}),
    ENGINEER: frozenset(
        {SEE, REMARK, SIGN, WAIVE, ADD, PROMISE, MAKE, SHARE, TIDY, ARCHIVE, HOUSE}
    ),
}
ROLES: Final = tuple(MAY)


def role_table() -> list[tuple[str, list[bool]]]:
    """Return each act in words, with whether viewer, reviewer, editor and engineer may do it."""
    return [(words, [act in MAY[role] for role in ROLES]) for act, words in ACTS.items()]
