"""The database's own wall between studios. What the pages do for one studio is done in a role that sees the rows of that studio and no
others (PostgreSQL's row-level security), so that a query without a scope finds nothing of anybody else's.

The rules themselves are a migration. The role belongs to the whole cluster, and is looked after whenever a database is brought to its
newest form.
"""

from __future__ import annotations

import uuid

from sqlalchemy import Connection

ROLE = "owl_studio"
_SETTING = "owl.studio"


class WallError(RuntimeError):
    """The role can not be made; one sentence on what an administrator does about it."""


def raise_wall(connection: Connection) -> None:
    """The role, and what it may do: read and write rows, and put jobs into the queue; no table is its own. Raises WallError."""
    known = connection.exec_driver_sql("SELECT 1 FROM pg_roles WHERE rolname = %s", (ROLE,)).first()
    may, own = connection.exec_driver_sql(
        "SELECT rolsuper OR rolcreaterole, current_user FROM pg_roles WHERE rolname = current_user"
    ).one()
    if known is None:
        if not may:
            raise WallError(
                f"The database needs a role that {own} may not make: CREATE ROLE {ROLE} NOLOGIN; GRANT {ROLE} TO {own};"
            )
        connection.exec_driver_sql(f"CREATE ROLE {ROLE} NOLOGIN")
    if not connection.exec_driver_sql("SELECT pg_has_role(current_user, %s, 'MEMBER')", (ROLE,)).scalar():
        connection.exec_driver_sql(f"GRANT {ROLE} TO CURRENT_USER")
    connection.exec_driver_sql(f"GRANT USAGE ON SCHEMA public TO {ROLE}")
    connection.exec_driver_sql(f"GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO {ROLE}")
    connection.exec_driver_sql(f"GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO {ROLE}")
    connection.exec_driver_sql(f"REVOKE ALL ON alembic_version FROM {ROLE}")


def stay_inside(connection: Connection, studio_id: uuid.UUID) -> None:
    """To the end of the transaction."""
    connection.exec_driver_sql(
        "SELECT set_config('role', %s, true), set_config(%s, %s, true)", (ROLE, _SETTING, str(studio_id))
    )
