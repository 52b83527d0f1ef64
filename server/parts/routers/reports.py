"""Inspection reports over HTTP: as a table (CSV), a workbook (XLSX), a PDF with the sheet; made anew, or kept."""

import base64
from collections.abc import Callable
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router, Schema

from kernel.artifacts import wait_for
from kernel.models import BuildRecord
from kernel.queue import ask
from sulvak_core.exchange.report_xlsx import report_xlsx
from sulvak_core.inspect.method import as_csv, rows
from sulvak_core.part.errors import Refusal
from sulvak_core.steps.registry import Document
from workspaces.access import part_for

from ..models import KeptReport, PartRecord
from ..opened import opened
from ..view import attachment
from .inspection import uncovered

router = Router()
SECONDS = 60.0
Form = Literal["csv", "xlsx", "pdf"]
TYPES: dict[Form, str] = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "pdf": "application/pdf",
}


class KeptOut(Schema):
    """A report that was kept: of which version and revision, who kept it when, and how it came out."""

    id: int
    version: int
    revision: str
    by: str
    at: datetime
    proven: int
    judged: int


class _Report:
    """The report of a part as it is now, in each of its forms."""

    def __init__(self, part: PartRecord, by: str) -> None:
        self.part, self.document = part, opened(part).document
        record = BuildRecord.objects.filter(part=part).first()
        if record is None or not record.is_of(part.version):
            raise Refusal("The part is still being built; ask for its report when it is done.")
        self.verdicts, self.kernel = record.figures["callouts"], record.kernel
        self.heading = {
            "part": self.document.name,
            "number": self.document.number,
            "revision": self.document.revision,
            "version": str(part.version),
            "general tolerance": self.document.general_tolerance,
            "measured with": record.kernel,
            "by": by,
            "on": timezone.now().strftime("%Y-%m-%d %H:%M UTC"),
        }

    def csv(self) -> bytes:
        return ("\ufeff" + as_csv(self.document, self.verdicts, self.heading)).encode()

    def xlsx(self) -> bytes:
        return report_xlsx(self.document, rows(self.document, self.verdicts), self.heading, _said(self.document))

    def pdf(self) -> bytes:
        question = {"do": "report", "heading": self.heading, "uncovered": _said(self.document)}
        late = "The report is still being drawn; ask for it again in a moment."
        return base64.b64decode(bytes(wait_for(ask(self.part.pk, self.part.version, question), SECONDS, late).data))

    def of(self, form: Form) -> bytes:
        makers: dict[Form, Callable[[], bytes]] = {"csv": self.csv, "xlsx": self.xlsx, "pdf": self.pdf}
        return makers[form]()


def _said(document: Document) -> list[str]:
    return [f"{row['what']} ({row['expr']})" for row in uncovered(document)]


def _told(kept: KeptReport) -> dict[str, Any]:
    names = ("id", "version", "revision", "by", "at", "proven", "judged")
    return {name: getattr(kept, name) for name in names}


@router.get("/parts/{part_id}/inspection.{form}")
def get_report(request: HttpRequest, part_id: UUID, form: Form) -> HttpResponse:
    """Every size with its limits and what it measures; at the head the part, its version, who asked and when."""
    part, _ = part_for(request.user, part_id)
    made = _Report(part, request.user.get_username())
    return attachment(made.of(form), TYPES[form], made.document.name, f"inspection.{form}")


@router.get("/parts/{part_id}/reports", response=list[KeptOut])
def get_reports(request: HttpRequest, part_id: UUID) -> Any:
    """The reports kept of a part, the newest first."""
    part, _ = part_for(request.user, part_id)
    return [_told(kept) for kept in KeptReport.objects.filter(part=part).defer("csv", "xlsx", "pdf")]


@router.post("/parts/{part_id}/reports", response=KeptOut)
def keep_report(request: HttpRequest, part_id: UUID) -> Any:
    """Keep the report of the part as it is now; from then on it never changes, whatever becomes of the part."""
    part, _ = part_for(request.user, part_id, "editor")
    by = request.user.get_username()
    made = _Report(part, by)
    judged = [v for v in made.verdicts if v["state"] not in ("note", "reference")]
    return _told(
        KeptReport.objects.create(
            part=part,
            version=part.version,
            revision=made.document.revision,
            by=by,
            kernel=made.kernel,
            proven=sum(v["state"] == "proven" for v in judged),
            judged=len(judged),
            csv=made.csv(),
            xlsx=made.xlsx(),
            pdf=made.pdf(),
        )
    )


@router.get("/parts/{part_id}/reports/{report}.{form}")
def get_kept(request: HttpRequest, part_id: UUID, report: int, form: Form) -> HttpResponse:
    """A kept report, byte for byte as it was made."""
    part, _ = part_for(request.user, part_id)
    kept = KeptReport.objects.filter(part=part, pk=report).first()
    if kept is None:
        return HttpResponse(status=404)
    name = f"{opened(part).document.name}-{kept.revision}-{kept.version}"
    return attachment(bytes(getattr(kept, form)), TYPES[form], name, f"inspection.{form}")
