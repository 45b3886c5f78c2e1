"""20 people at once, 2 000 requests while two surveys run: how soon a real server answers.

The library of benchmarks/pages.py, served by the real server with two workers, which measure two
exports again and again. Each person looks at a page for a while before asking for the next, PAUSE_S
in the middle; with a pause of 0 nobody looks, and the server's throughput is what is measured.
Every answer must be 200, and none may speak of a locked database.
Usage: python -m benchmarks.load [PEOPLE REQUESTS PAUSE_S TITLES]
"""

import os
import random
import re
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections import defaultdict
from pathlib import Path

import httpx

from benchmarks import pages

PEOPLE, REQUESTS, PAUSE_S, PORT, GOAL_MS = 20, 2000, 2.0, 8519, 300.0
ASK_AGAIN_S = 3.0
"""For a survey, as soon as the one before has ended; nothing is begun beside one that runs."""
PASSWORD = "a-long-enough-one"  # noqa: S105  (of a library that is thrown away)


def main() -> None:
    """Fill a library, serve it, ask, and print what came of it."""
    given = dict(enumerate(sys.argv))
    people, requests = int(given.get(1, PEOPLE)), int(given.get(2, REQUESTS))
    pause_s = float(given.get(3, PAUSE_S))
    titles = int(given.get(4, pages.TITLES))
    with tempfile.TemporaryDirectory() as folder:
        os.environ |= {
            "SHAPKEEN_DATA": folder,
            "SHAPKEEN_PORT": f"{PORT}",
            "DJANGO_SETTINGS_MODULE": "shapkeen.web.config.settings",
            "SHAPKEEN_SURVEY_WORKERS": "1",
        }
        import django

        django.setup()
        addresses, surveys = _prepare(Path(folder), titles)
        log = Path(folder, "serve.log").open("w")  # noqa: SIM115  (the server's, until it ends)
        command = [sys.executable, "manage.py", "serve", "--workers", "2"]
        server = subprocess.Popen(command, stdout=log, stderr=subprocess.STDOUT)  # noqa: S603
        try:
            _wait()
            _ask(addresses, surveys, people, requests, pause_s)
        finally:
            server.terminate()
            server.wait()
        told = Path(folder, "serve.log").read_text()
        print(f"server's log: {told.count('locked')} × locked, {told.count('Traceback')} faults")


def _prepare(folder: Path, titles: int) -> tuple[list[str], list[str]]:
    """Return the addresses to ask for, and those that begin surveys."""
    from django.core.management import call_command

    from shapkeen.web.library.models import Attempt
    from shapkeen.web.people.rights import make_person

    call_command("migrate", verbosity=0)
    user = make_person("ada", PASSWORD, administrator=True)
    addresses = [address for _, address in pages._fill(folder, user, titles)]
    newest = Attempt.objects.order_by("-pk")[:40]
    addresses += [one.get_absolute_url() for one in newest]
    return addresses, [f"/attempt/{one.pk}/measure/" for one in newest[:2]]


def _wait() -> None:
    for _ in range(300):
        try:
            httpx.get(f"http://127.0.0.1:{PORT}/healthz")
        except httpx.HTTPError:
            time.sleep(0.2)
        else:
            return
    raise SystemExit("the server did not come up")


def _ask(
    addresses: list[str], surveys: list[str], people: int, requests: int, pause_s: float
) -> None:
    sessions = [_logged_in() for _ in range(people)]
    ended = threading.Event()
    measuring = threading.Thread(target=_measure, args=(_logged_in(), surveys, ended))
    measuring.start()
    spent: list[float] = []
    odd: list[str] = []
    by_page: defaultdict[str, list[float]] = defaultdict(list)
    each = requests // people
    lock = threading.Lock()

    def person(session: httpx.Client, chance: random.Random) -> None:
        for number in range(each):
            if pause_s:
                time.sleep(chance.expovariate(1 / pause_s))
            address = chance.choice(addresses)
            started = time.perf_counter()
            answer = session.get(address)
            took = (time.perf_counter() - started) * 1000
            with lock:
                spent.append(took)
                by_page[address.split("?")[0]].append(took)
                if answer.status_code != 200:
                    odd.append(f"{answer.status_code} {address}")
            if number % 40 == 39:
                _press(session, chance.choice(surveys))  # somebody writes, too

    began, before = time.perf_counter(), _ticks()
    threads = [
        threading.Thread(target=person, args=(session, random.Random(number)))  # noqa: S311
        for number, session in enumerate(sessions)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    whole = time.perf_counter() - began
    stolen, all_of_it = (after - then for after, then in zip(_ticks(), before, strict=True))
    stolen /= max(all_of_it, 1)
    ended.set()
    measuring.join()
    cut = statistics.quantiles(spent, n=100)
    told = "met" if cut[94] < GOAL_MS else "MISSED"
    print(
        f"{people} people who look for {pause_s:g} s, {len(spent)} requests in {whole:.0f} s "
        f"({len(spent) / whole:.0f} a second), 2 surveys beside them: middle {cut[49]:.0f} ms, "
        f"95 % under {cut[94]:.0f} ms (goal {GOAL_MS:.0f}: {told}), worst {max(spent):.0f} ms; "
        f"{len(odd)} odd answers {odd[:3]}; {stolen:.0%} of the processors' time went to "
        "others on this host"
    )
    slowest = sorted(by_page, key=lambda page: -statistics.median(by_page[page]))[:5]
    told = ", ".join(f"{page} {statistics.median(by_page[page]):.0f} ms" for page in slowest)
    print(f"slowest pages, middle: {told}")


def _ticks() -> tuple[float, float]:
    """Return of all processors the time that a host kept for others, and all (proc(5): stat)."""
    spent = [int(one) for one in Path("/proc/stat").read_text().split("\n")[0].split()[1:9]]
    return spent[7], sum(spent)


def _measure(session: httpx.Client, surveys: list[str], ended: threading.Event) -> None:
    while not ended.is_set():
        for one in surveys:
            _press(session, one)
        ended.wait(ASK_AGAIN_S)


def _logged_in() -> httpx.Client:
    session = httpx.Client(base_url=f"http://127.0.0.1:{PORT}", timeout=60, follow_redirects=True)
    page = session.get("/log-in/")
    token = _token(page.text)
    form = {"csrfmiddlewaretoken": token, "username": "ada", "password": PASSWORD}
    session.post("/log-in/", data=form, headers={"Referer": str(page.url)})
    return session


def _token(text: str) -> str:
    found = re.search(r'name="csrfmiddlewaretoken" value="([^"]+)"', text)
    return found[1] if found else ""


def _press(session: httpx.Client, address: str) -> None:
    token = _token(session.get("/").text)
    answer = session.post(address, data={"csrfmiddlewaretoken": token})
    assert answer.status_code < 400, (address, answer.status_code)  # noqa: S101


if __name__ == "__main__":
    main()
