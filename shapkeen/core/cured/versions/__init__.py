"""Versions: deliveries made from the master by recipes, as their promises ask for."""

from .filled import recipe_from_fields
from .making import Made, check_recipe, make_version
from .order import Order, name_of, order_version
from .planned import recipe_of_plan
from .recipe import Recipe, Sound
from .recipe_text import read_recipe_file, recipe_from_json, recipe_to_json

__all__ = [
    "Made",
    "Order",
    "Recipe",
    "Sound",
    "check_recipe",
    "make_version",
    "name_of",
    "order_version",
    "read_recipe_file",
    "recipe_from_fields",
    "recipe_from_json",
    "recipe_of_plan",
    "recipe_to_json",
]
