"""Files out: SVG, DXF, plotter, PDF, the report, and all of them in one zip."""

from .files import ExportFile, all_files, zip_files
from .report import Report, make_report, report_schema

__all__ = ["ExportFile", "Report", "all_files", "make_report", "report_schema", "zip_files"]
