"""What is kept: PostgreSQL through SQLAlchemy, one gateway owning all queries."""
