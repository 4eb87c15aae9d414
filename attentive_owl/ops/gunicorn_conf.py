"""How gunicorn runs the web: what ./start, the container and the unit file have in common. Read by gunicorn: -c python:attentive_owl.ops.gunicorn_conf"""

from __future__ import annotations

import os
import shutil
from typing import Any

from attentive_owl.ops import logs
from attentive_owl.settings import load_settings

_figures = load_settings().var / "metrics"
shutil.rmtree(_figures, ignore_errors=True)
_figures.mkdir(mode=0o700, parents=True)
# Of all processes together; it has to be set before the first figure is made.
os.environ["PROMETHEUS_MULTIPROC_DIR"] = str(_figures)

wsgi_app = "attentive_owl.web.app:make_wsgi()"
# Loopback, but in a container, whose own walls stand around it.
bind = f"{os.environ.get('OWL_BIND', '127.0.0.1')}:{os.environ.get('OWL_PORT', '8420')}"
# Two a core: four answered sooner than two or one on two cores (docs/benchmark.md). Eight, of eight threads, stay
# under the hundred connections that PostgreSQL gives where nothing else is said.
workers = int(os.environ.get("OWL_WEB_WORKERS", 0)) or min(max(2 * (os.cpu_count() or 1), 2), 8)
worker_class = "gthread"
threads = 8
preload_app = True
timeout = 120
graceful_timeout = 10
# Longer than a proxy keeps an idle line (nginx: 60 s), or it would send a request into one that we have just closed.
keepalive = 65
umask = 0o077
# A socket on which whoever reaches it could steer us.
control_socket_disable = True
logconfig_dict = logs.config()


def child_exit(server: Any, worker: Any) -> None:
    from prometheus_client.multiprocess import mark_process_dead

    mark_process_dead(worker.pid)  # type: ignore[no-untyped-call]
