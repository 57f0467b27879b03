"""From cut films to a decal on the blank: the steps for this very job, and the cautions that apply."""

from .cautions import Caution
from .choice import Choice
from .steps import Layup, LayupStep, plan_layup

__all__ = ["Caution", "Choice", "Layup", "LayupStep", "plan_layup"]
