"""What the ledger says: rules, their lines, remedies, safety, what comes next."""
