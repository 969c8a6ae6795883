"""The run: batches through the stages in order, the ledger, the problems, the record."""
