"""The finite element models behind the demo data. Development only: nothing here ships in the product."""
