"""Which sources come in, and how: inspection, layouts, columns, the ledger."""
