"""What a job costs and what it is sold for. Money is Decimal, rounded once, at the end."""

from .price import CostLine, Price, price_job

__all__ = ["CostLine", "Price", "price_job"]
