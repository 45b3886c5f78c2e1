"""What the service does with what came: one upload after the other, in a process of its own."""

import json
import queue
import subprocess
import sys
import threading
import time
from pathlib import Path

from .store import Store, Upload

REFUSED, TAKEN = 2, 0
MOST_S = 6 * 3600


class Worker:
    """Rehearses uploads in the background, through the command line."""

    def __init__(self, service: Path | str) -> None:
        """Take the stand-in: its name, or its file."""
        self._service = str(service)
        self._queue: queue.Queue[Upload | None] = queue.Queue()
        self._thread = threading.Thread(target=self._run, daemon=True)

    def start(self, store: Store) -> None:
        """Begin, with what an earlier run left unfinished."""
        self._thread.start()
        for upload in store.all():
            if upload.meta["state"] == "working":
                self.take(upload)

    def take(self, upload: Upload) -> None:
        """Have an upload worked on; its time begins now."""
        if upload.meta["state"] != "working":
            upload.note(state="working", whole_at=time.time())
        self._queue.put(upload)

    def stop(self) -> None:
        """Take no more."""
        self._queue.put(None)

    def _run(self) -> None:
        while (upload := self._queue.get()) is not None:
            try:
                self._work(upload)
            except (OSError, ValueError, subprocess.TimeoutExpired) as error:
                upload.note(state="failed", error={"text": str(error), "code": "internal"})

    def _work(self, upload: Upload) -> None:
        wanted = upload.meta["sha256"]
        if wanted and upload.digest() != wanted.lower():
            text = "What came has another SHA-256 than was announced. Send it again."
            upload.note(state="refused", error={"text": text, "code": "digest"})
            return
        upload.out.mkdir(exist_ok=True)
        for old in upload.out.iterdir():
            old.unlink()  # of a run that was ended
        done = subprocess.run(  # noqa: S603  (our own command, and words that no shell reads)
            [
                *(sys.executable, "-W", "ignore", "-m", "shapkeen.cli.main", "rehearse"),
                *(str(upload.file), "--service", self._service),
                *("--out", str(upload.out), "--json"),
            ],
            capture_output=True,
            text=True,
            timeout=MOST_S,
            check=False,
        )
        answer = json.loads(done.stdout or done.stderr.strip().splitlines()[-1])
        if done.returncode not in (TAKEN, REFUSED):
            upload.note(state="refused", error=answer)
        elif answer["accepted"]:
            upload.note(state="ready", found=answer)
        else:
            upload.note(state="refused", found=answer)
