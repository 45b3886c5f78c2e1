"""Every setting from the environment, in one place, with its default and unit."""

import os
import secrets
from dataclasses import dataclass
from pathlib import Path

BASE_DIR = Path(__file__).resolve().parents[3]


@dataclass(frozen=True)
class Conf:
    """What can be configured. Paths are absolute; sizes in bytes; times in seconds."""

    data_dir: Path
    media_roots: dict[str, Path]
    upload_limit_bytes: int
    port: int
    hosts: list[str]
    workers: int
    survey_frames: int
    survey_workers: int
    executor: str
    child_memory_bytes: int
    child_time_s: int
    child_wall_s: int
    made_bytes: int

    @property
    def upload_dir(self) -> Path:
        return self.data_dir / "uploads"

    @property
    def span_dir(self) -> Path:
        """Return where finished parts of surveys are kept until the whole is done."""
        return self.data_dir / "spans"

    @property
    def kernel_dir(self) -> Path:
        """Return where compiled loops are kept: the installation itself may be read-only."""
        return self.data_dir / "kernels"

    @property
    def made_dir(self) -> Path:
        """Return where stills, moments and proxies are kept."""
        return self.data_dir / "made"

    @property
    def work_dir(self) -> Path:
        """Return where work that is under way puts what it makes; emptied at every start."""
        return self.data_dir / "work"


def _whole(name: str, default: int) -> int:
    text = os.environ.get(name, "")
    if not text:
        return default
    try:
        return int(text)
    except ValueError:
        raise SystemExit(f"{name} must be a whole number; it is {text!r}.") from None


def _one_of(name: str, known: tuple[str, ...]) -> str:
    """Return a setting that has one of a few values, the first by default."""
    text = os.environ.get(name) or known[0]
    if text not in known:
        raise SystemExit(f"{name} must be one of {', '.join(known)}; it is {text!r}.")
    return text


def _roots(data_dir: Path) -> dict[str, Path]:
    """Return media roots: `name=path` pairs, parted by the path separator."""
    roots = {"uploads": data_dir / "uploads"}
    for pair in filter(None, os.environ.get("SHAPKEEN_MEDIA_ROOTS", "").split(os.pathsep)):
        name, _, path = pair.partition("=")
        if not name or not path:
            raise SystemExit(f"SHAPKEEN_MEDIA_ROOTS wants name=path, not {pair!r}.")
        roots[name] = Path(path)
    if len(roots) == 1:
        roots["footage"] = data_dir / "footage"
    return {name: path.resolve() for name, path in roots.items()}


def load() -> Conf:
    """Read the environment; ends with a clear message where a setting is wrong."""
    data_dir = Path(os.environ.get("SHAPKEEN_DATA", BASE_DIR / "data")).resolve()
    return Conf(
        data_dir=data_dir,
        media_roots=_roots(data_dir),
        upload_limit_bytes=_whole("SHAPKEEN_UPLOAD_LIMIT", 64 * 1024**3),
        port=_whole("SHAPKEEN_PORT", 8470),
        hosts=os.environ.get("SHAPKEEN_HOSTS", "127.0.0.1,localhost").split(","),
        workers=_whole("SHAPKEEN_WORKERS", 1),
        survey_frames=_whole("SHAPKEEN_FRAMES", 24),
        survey_workers=_whole("SHAPKEEN_SURVEY_WORKERS", os.cpu_count() or 1),
        executor=_one_of("SHAPKEEN_EXECUTOR", ("processes",)),
        child_memory_bytes=_whole("SHAPKEEN_CHILD_MEMORY", 6 * 1024**3),
        child_time_s=_whole("SHAPKEEN_CHILD_TIME", 6 * 3600),
        child_wall_s=_whole("SHAPKEEN_CHILD_WALL", 24 * 3600),
        made_bytes=_whole("SHAPKEEN_MADE_LIMIT", 4 * 1024**3),
    )


def secret_key(data_dir: Path) -> str:
    """Return the installation's key, made at first need and readable by its owner only."""
    path = data_dir / "secret-key"
    if not path.exists():
        data_dir.mkdir(parents=True, exist_ok=True)
        made = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
        with os.fdopen(made, "w") as file:
            file.write(secrets.token_urlsafe(50))
    return path.read_text().strip()
