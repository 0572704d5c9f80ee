"""What is answered where something is wrong."""

from pydantic import BaseModel


class FieldProblem(BaseModel):
    """One thing wrong: its place in what was sent, and what to do."""

    field: str
    code: str
    message: str


class ProblemOut(BaseModel):
    """RFC 9457 problem details; `errors` names every field that is wrong."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    code: str
    errors: list[FieldProblem]
    details: dict[str, object] = {}
