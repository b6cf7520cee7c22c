"""The rules of the ledger by step, one concern a module: each offers its RULE."""
