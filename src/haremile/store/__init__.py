"""PostgreSQL through peewee. Rows stay in here; core records are handed out."""
