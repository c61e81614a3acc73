"""MariaDB through PyMySQL: plain SQL migrations and queries, transactions, version checks."""
