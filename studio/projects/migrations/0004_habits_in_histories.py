"""What was taught stands in histories as other rows do: by kind, key and field."""

from __future__ import annotations

from typing import Any

from django.db import migrations


def _as_rows(state: dict[str, Any], project: int) -> dict[str, Any]:
    habits = state.pop("habits", None)
    if habits is not None:
        state["projects"] = {str(project): {"habit": habits["taught"]}}
        state["intakes"] = {key: {"habit": lines} for key, lines in habits["intakes"].items()}
    return state


def forwards(apps: Any, schema_editor: Any) -> None:
    rows = apps.get_model("projects", "Change").objects.filter(before__has_key="habits")
    for row in rows.iterator(20):
        row.before, row.after = _as_rows(row.before, row.project_id), _as_rows(row.after, row.project_id)
        row.save(update_fields=["before", "after"])


def backwards(apps: Any, schema_editor: Any) -> None:
    for row in apps.get_model("projects", "Change").objects.filter(before__has_key="projects").iterator(20):
        for state in (row.before, row.after):
            taught = state.pop("projects", {}).get(str(row.project_id), {}).get("habit", [])
            lines = {key: values["habit"] for key, values in state.pop("intakes", {}).items() if "habit" in values}
            state["habits"] = {"taught": taught, "intakes": lines}
        row.save(update_fields=["before", "after"])


class Migration(migrations.Migration):
    dependencies = [("projects", "0003_revisions")]

    operations = [migrations.RunPython(forwards, backwards)]
