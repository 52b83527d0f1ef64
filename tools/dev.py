"""Sulvak for who works on it: the screen reloads as its files change, the web process as the server's and core's do."""

from __future__ import annotations

import os
import signal
import time

from . import own, postgres, processes
from .places import ROOT, WEB, Trouble, say
from .supervise import Kept

HOST = "127.0.0.1"


def run(port: int) -> None:
    """The demo on ``port`` + 1, served by Vite, with the web process behind it on ``port``; until Ctrl+C."""
    for taken in (port, port + 1):
        if processes.taken(HOST, taken):
            raise Trouble(f"Port {taken} is taken by another program; choose one with --port.")
    postgres.start()
    processes.bring_up_to_date(demo=True)
    os.environ.update(processes.environment(SULVAK_DEMO="1", SULVAK_BEHIND=f"http://{HOST}:{port}", **own.mark()))
    reload = ["--reload", "--reload-dir", str(ROOT / "core"), "--reload-dir", str(ROOT / "server")]
    screen = ["npx", "--no-install", "vite", "--host", HOST, "--port", str(port + 1), "--strictPort"]
    kept = [
        Kept([*processes.web_command(HOST, port), *reload]),
        Kept(processes.worker_command()),
        Kept(screen, folder=WEB),
    ]
    going = [True]
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, lambda *_: going.clear())
    say(f"Sulvak is at http://{HOST}:{port + 1}/ (name wren, password kite-and-ballast); Ctrl+C ends it.")
    say("The screen follows its files, the web process those of server and core; the kernel worker does not.")
    while going:
        for process in kept:
            process.tend()
        time.sleep(0.3)
    for process in kept:
        process.end()
