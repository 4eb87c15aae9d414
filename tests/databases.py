"""Databases of the tests' cluster: one for each who asks, or one that is emptied after each test. Making one takes a fifth of a
second."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from contextlib import contextmanager

import psycopg
from psycopg import sql

from attentive_owl.ops.cluster import Cluster

TEMPLATE = "template_owl"
KEPT = "kept-by-the-tests"
"""What the tests' own connections are called, which outlive a test."""


@contextmanager
def own_database(cluster: Cluster) -> Iterator[str]:
    """The name of a database with all tables and nothing in them, thrown away afterwards."""
    name = f"test_{uuid.uuid4().hex[:12]}"
    with psycopg.connect(cluster.conninfo("postgres"), autocommit=True) as connection:
        connection.execute(sql.SQL("CREATE DATABASE {} TEMPLATE {}").format(*map(sql.Identifier, (name, TEMPLATE))))
    yield name
    with psycopg.connect(cluster.conninfo("postgres"), autocommit=True) as connection:
        connection.execute(sql.SQL("DROP DATABASE {} WITH (FORCE)").format(sql.Identifier(name)))


def empty(cluster: Cluster, name: str) -> None:
    """Leaves nothing in any table but the migrations' own, and counts from 1 again. Who is still connected, the tests' own idle connections aside, is cut
    off first: a program that a test left behind would write into the next one's."""
    with psycopg.connect(cluster.conninfo(name), autocommit=True) as connection:
        connection.execute(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = %s AND pid <> pg_backend_pid()"
            " AND NOT (application_name = %s AND state = 'idle')",
            (name, KEPT),
        )
        # Without triggers and foreign keys the order does not matter.
        connection.execute("SET session_replication_role = replica")
        tables = connection.execute(
            "SELECT tablename FROM pg_tables WHERE schemaname = 'public' AND tablename <> 'alembic_version'"
        ).fetchall()
        for (table,) in tables:
            connection.execute(sql.SQL("DELETE FROM {}").format(sql.Identifier(table)))
        counters = connection.execute("SELECT sequencename FROM pg_sequences WHERE schemaname = 'public'").fetchall()
        for (counter,) in counters:
            connection.execute(sql.SQL("ALTER SEQUENCE {} RESTART").format(sql.Identifier(counter)))
