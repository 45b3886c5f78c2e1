"""Every setting from the environment, in one place, with its default and unit."""

import os
import secrets
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

BASE_DIR = Path(__file__).resolve().parents[3]


@dataclass(frozen=True)
class Conf:
    """What can be configured. Paths are absolute; sizes in bytes; times in seconds.

    workers, web_processes: 0: as many as fit the machine (upkeep.fitting).
    """

    data_dir: Path
    media_roots: dict[str, Path]
    upload_limit_bytes: int
    bind: str
    port: int
    hosts: list[str]
    workers: int
    web_processes: int
    survey_frames: int
    survey_workers: int
    cluster: str
    child_memory_bytes: int
    child_time_s: int
    child_wall_s: int
    made_bytes: int
    origins: list[str]
    has_proxy: bool
    metrics_token: str
    log_form: str

    @property
    def is_behind_tls(self) -> bool:
        """Return whether people come by https alone: then cookies go no other way."""
        return bool(self.origins) and all(one.startswith("https://") for one in self.origins)

    @property
    def database(self) -> Path:
        """Return where the database lies."""
        return self.data_dir / "shapkeen.sqlite3"

    @property
    def upload_dir(self) -> Path:
        return self.data_dir / "uploads"

    @property
    def archive_dir(self) -> Path:
        """Return where archives are written."""
        return Path(os.environ.get("SHAPKEEN_ARCHIVES") or self.data_dir / "archives")

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


SURVEY_WORKERS = "SHAPKEEN_SURVEY_WORKERS"
GIVES_WAY = "SHAPKEEN_GIVES_WAY"
USUAL_STEPS, MOST_STEPS = 10, 19
"""Of niceness: at 10, where both want all of a processor, a tenth of it is left for the nicer."""


def is_set(name: str) -> bool:
    """Return whether somebody chose a setting."""
    return bool(os.environ.get(name))


def _whole(name: str, default: int) -> int:
    text = os.environ.get(name, "")
    if not text:
        return default
    try:
        return int(text)
    except ValueError:
        raise SystemExit(f"{name} must be a whole number; it is {text!r}.") from None


def giving_way_steps() -> int:
    """Return by how many steps of niceness measuring gives way to all else on the machine."""
    steps = _whole(GIVES_WAY, USUAL_STEPS)
    if not 0 <= steps <= MOST_STEPS:
        raise SystemExit(f"{GIVES_WAY} must be from 0 to {MOST_STEPS}; it is {steps}.")
    return steps


def _one_of(name: str, known: tuple[str, ...]) -> str:
    """Return a setting that has one of a few values, the first by default."""
    text = os.environ.get(name) or known[0]
    if text not in known:
        raise SystemExit(f"{name} must be one of {', '.join(known)}; it is {text!r}.")
    return text


def _cluster() -> str:
    """Return the address of the cluster's scheduler; empty where this machine measures itself.

    The core reads it too, in the child and for the command line (core.measured.spans.cluster).
    """
    address = os.environ.get("SHAPKEEN_CLUSTER", "")
    if address and not address.startswith(("tcp://", "tls://")):
        raise SystemExit(f"SHAPKEEN_CLUSTER wants tcp://host:port or tls://…, not {address!r}.")
    return address


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
    os.umask(0o077)  # what is kept here is for this account alone
    data_dir = Path(os.environ.get("SHAPKEEN_DATA", BASE_DIR / "data")).resolve()
    giving_way_steps()  # told of here where it is wrong, though read where it is needed
    return Conf(
        data_dir=data_dir,
        media_roots=_roots(data_dir),
        upload_limit_bytes=_whole("SHAPKEEN_UPLOAD_LIMIT", 64 * 1024**3),
        bind=os.environ.get("SHAPKEEN_BIND") or "127.0.0.1",
        port=_whole("SHAPKEEN_PORT", 8470),
        hosts=os.environ.get("SHAPKEEN_HOSTS", "127.0.0.1,localhost").split(","),
        workers=_whole("SHAPKEEN_WORKERS", 0),
        web_processes=_whole("SHAPKEEN_WEB_PROCESSES", 0),
        survey_frames=_whole("SHAPKEEN_FRAMES", 24),
        survey_workers=_whole(SURVEY_WORKERS, os.cpu_count() or 1),
        cluster=_cluster(),
        child_memory_bytes=_whole("SHAPKEEN_CHILD_MEMORY", 6 * 1024**3),
        child_time_s=_whole("SHAPKEEN_CHILD_TIME", 6 * 3600),
        child_wall_s=_whole("SHAPKEEN_CHILD_WALL", 24 * 3600),
        made_bytes=_whole("SHAPKEEN_MADE_LIMIT", 4 * 1024**3),
        origins=[one for one in os.environ.get("SHAPKEEN_ORIGINS", "").split(",") if one],
        has_proxy=_one_of("SHAPKEEN_PROXY", ("no", "yes")) == "yes",
        metrics_token=os.environ.get("SHAPKEEN_METRICS_TOKEN", ""),
        log_form=_one_of("SHAPKEEN_LOG", ("text", "json")),
    )


def secret_key(data_dir: Path) -> str:
    """Return the installation's key, made at first need and readable by its owner only."""
    path = data_dir / "secret-key"
    if not _has_content(path):
        data_dir.mkdir(parents=True, exist_ok=True)
        whole = data_dir / f".secret-key-{os.getpid()}"
        try:
            # Written beside it: a full disk would leave an empty key, and every page would fail.
            with whole.open("w") as file:  # for us alone, by the mask that load() sets
                file.write(secrets.token_urlsafe(50))
                file.flush()
                os.fsync(file.fileno())
            if not _has_content(path):
                whole.replace(path)
        except OSError as error:
            raise SystemExit(
                f"Shapkeen cannot write to {data_dir}: {error.strerror}. Make room or give rights "
                "there, or set SHAPKEEN_DATA to another folder."
            ) from None
        finally:
            with suppress(OSError):
                whole.unlink(missing_ok=True)
    return path.read_text().strip()


def _has_content(path: Path) -> bool:
    return path.exists() and path.stat().st_size > 0
