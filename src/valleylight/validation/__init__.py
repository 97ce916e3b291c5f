"""The tracer against closed forms and published cases: `./valleylight validate` writes docs/validation.md."""

from valleylight.validation.case import Case, Outcome, all_cases, table

__all__ = ["Case", "Outcome", "all_cases", "table"]
