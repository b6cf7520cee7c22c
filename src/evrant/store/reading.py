"""How the database is read."""

from sqlalchemy import Engine


def reader(engine: Engine) -> Engine:
    """The engine to read through: its statements begin no transaction and leave none to be taken back, which is two
    of the four words a short read says to the server. Each sees what is committed by then, as it would in one."""
    return engine.execution_options(isolation_level="AUTOCOMMIT")
