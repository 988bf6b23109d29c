"""Figures in the common text format of metrics: what this host answered, and what waits in the database."""

from __future__ import annotations

import os
from datetime import timedelta

from django.utils import timezone
from django_tasks_db.models import DBTaskResult
from prometheus_client import CollectorRegistry, Counter, Gauge, generate_latest
from prometheus_client.multiprocess import MultiProcessCollector

from studio.takes.models import Take

REQUESTS = Counter("giusto_requests", "Requests answered, by what they were and how", ["kind", "status"])
BATCHES = Counter("giusto_batches", "Batches of notes and sound that came in, and those that came again", ["came"])
LATELY = timedelta(days=1)


def figures() -> bytes:
    """Return all figures as text; those of the processes of this host are added up."""
    registry = CollectorRegistry()
    if "PROMETHEUS_MULTIPROC_DIR" in os.environ:
        MultiProcessCollector(registry)  # type: ignore[no-untyped-call]
    said = generate_latest(registry)
    return said + generate_latest(_waiting())


def _waiting() -> CollectorRegistry:
    """Return what the database says now, the same from each host."""
    registry, now = CollectorRegistry(), timezone.now()
    waits = DBTaskResult.objects.ready()
    oldest = waits.order_by("enqueued_at").values_list("enqueued_at", flat=True).first()
    unread = Take.objects.ended().filter(reading=None, ended_how="complete")
    waited = (now - oldest).total_seconds() if oldest else 0.0
    lately = Take.objects.filter(started_at__gte=now - LATELY)
    for name, what, value in (
        ("giusto_tasks_waiting", "Tasks that no worker has taken up yet", waits.count()),
        ("giusto_oldest_waiting_seconds", "How long the oldest of them waits", waited),
        ("giusto_readings_waiting", "Takes that are over and not read yet", unread.count()),
        ("giusto_takes_a_day", "Takes of the last 24 hours", lately.count()),
    ):
        Gauge(name, what, registry=registry).set(value)
    return registry
