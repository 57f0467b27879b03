"""The published JSON Schema of the job document."""

from __future__ import annotations

from typing import Any

from .document import Job


def job_schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of a job document."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Job.model_json_schema()}
