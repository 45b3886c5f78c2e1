"""Cells of CSV (RFC 4180) that no table program takes for a formula."""

FORMULA = ("=", "+", "-", "@", "\t", "\r")


def harmless(cell: str) -> str:
    """Return a cell that is read as the text it is; numbers stay numbers."""
    try:
        float(cell)
    except ValueError:
        return f"'{cell}" if cell.startswith(FORMULA) else cell
    return cell
