"""PostgreSQL: tables, migrations, and one module of queries per noun; hands out core values."""
