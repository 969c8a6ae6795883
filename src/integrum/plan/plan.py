"""A plan as people make it, with what it can be turned into."""

from __future__ import annotations

from integrum.plan.model import PlanParts
from integrum.plan.python import plan_as_python
from integrum.plan.toml import write_plan
from integrum.plan.wrong_words import fields_answer
from integrum.problems import notebook
from integrum.problems.problem import counted


@fields_answer
class Plan(PlanParts):
    """What the sources are like and what the table should be.

    Parameters
    ----------
    sources
        The groups of sources, in their order in the table: `Sources`, or folders, patterns and files as texts.
    columns
        The columns of the table, in their order: `Column`, or names of text columns. Without any, the table has the
        columns of all sources, as text.
    leave_out
        Headers that are known but not wanted, in any group, as names or patterns (``*``, ``?``).
    dataset
        What the table is as a work: title, people, license; for those that it is handed on to.
    provenance
        The columns that name the source of each row; they come first in the table.
    rules
        What to do where sources and plan disagree.
    glossary
        Your own words for the guesses: for each word, others that mean the same in the names of columns.
    checks
        Checks of the table.

    Raises
    ------
    PlanError
        When two columns have the same name or claim the same header, or a value is not of its kind.

    Examples
    --------
    >>> from integrum.plan.column import Column
    >>> from integrum.plan.sources import Sources
    >>> plan = Plan(sources=[Sources("loggers")], columns=[Column("depth", "number")])
    >>> plan.table_names
    ('source', 'sheet', 'source_row', 'depth')
    """

    def _repr_html_(self) -> str:
        head = (
            f"Plan: {counted(len(self.sources), 'group')} of sources, {counted(len(self.columns), 'column')}"
        )
        groups = [
            (one.group or number, ", ".join(one.find), ", ".join(one.schemes))
            for number, one in enumerate(self.sources, 1)
        ]
        columns = [
            (each.name, each.type, each.unit, ", ".join(each.headers[1:]), ", ".join(each.missing))
            for each in self.columns
        ]
        return notebook.view(
            notebook.title(head),
            notebook.table(["group", "find", "ids"], groups),
            notebook.table(["column", "type", "unit", "also", "missing"], columns, most=200)
            if columns
            else "",
            notebook.folded("the plan file", write_plan(self)),
        )

    def to_python(self, table: str = "table.csv") -> str:
        """The plan as a short Python script that assembles the same table, for those who go on in code.

        Parameters
        ----------
        table
            The name of the table that the script writes when it is given no other.

        Returns
        -------
        str
            The script. If the plan was read from a file, its comments are kept. Save it where the plan's relative paths
            are right: they are relative to the folder of the script.

        Examples
        --------
        >>> from integrum.plan.column import Column
        >>> from integrum.plan.sources import Sources
        >>> script = Plan([Sources("loggers")], [Column("depth", "number")]).to_python()
        >>> print(script[script.index("plan =") : script.index("if __name__")].strip())
        plan = ig.Plan(
            sources=[
                ig.Sources("loggers"),
            ],
            columns=[
                ig.Column("depth", "number"),
            ],
        )
        """
        return plan_as_python(self, getattr(self, "_text", ""), table)
