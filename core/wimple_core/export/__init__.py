"""Files out: SVG, DXF, plotter, PDF, the report, and all of them in one zip."""

from .files import ExportFile, all_files, zip_files
from .report import make_report, report_schema
from .report_shapes import Report

__all__ = ["ExportFile", "Report", "all_files", "make_report", "report_schema", "zip_files"]
