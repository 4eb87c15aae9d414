"""A store that answers as S3 does, on loopback: moto's server."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager

import boto3
from moto.server import ThreadedMotoServer
from s3fs import S3FileSystem

from tests.conftest import free_port

BUCKET = "school"


@contextmanager
def object_store() -> Iterator[tuple[int, ThreadedMotoServer]]:
    """Its port, and the server."""
    port = free_port()
    own = ThreadedMotoServer("127.0.0.1", port, verbose=False)
    own.start()
    try:
        with reached_at(port):
            yield port, own
    finally:
        own.stop()


@contextmanager
def reached_at(port: int) -> Iterator[None]:
    """Where it is stands in the environment, for us and for the processes that we start; and it has the bucket."""
    before = dict(os.environ)
    os.environ.update(
        AWS_ENDPOINT_URL=f"http://127.0.0.1:{port}", AWS_ACCESS_KEY_ID="a", AWS_SECRET_ACCESS_KEY="b",
        AWS_DEFAULT_REGION="us-east-1", AWS_MAX_ATTEMPTS="1",
    )  # fmt: skip
    # What stands in memory is for another one.
    S3FileSystem.clear_instance_cache()
    boto3.client("s3").create_bucket(Bucket=BUCKET)
    try:
        yield
    finally:
        os.environ.clear()
        os.environ.update(before)
