"""The picture a planned camera would take, from the model the ledger judges."""
