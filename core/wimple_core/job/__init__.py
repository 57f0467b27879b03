"""The job document: the one shape of a job, its versions, and the shipped tables it refers to."""

from .document import Job
from .loading import load_job
from .schema import job_schema

__all__ = ["Job", "job_schema", "load_job"]
