"""The rules of the ledger, one concern a module. Each offers margins() and, where an edit can help,
propose()."""
