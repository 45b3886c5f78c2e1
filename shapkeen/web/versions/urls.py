"""Addresses of recipes and versions."""

from django.urls import path

from . import views

app_name = "versions"
urlpatterns = [
    path("title/<int:title_id>/versions/", views.versions, name="versions"),
    path("title/<int:title_id>/versions/make/", views.make, name="make"),
    path("title/<int:title_id>/versions/pause/", views.pause, name="pause"),
    path("title/<int:title_id>/versions/go-on/", views.go_on, name="go-on"),
    path("title/<int:title_id>/versions/order/", views.put_in_order, name="order"),
    path("title/<int:title_id>/versions/new/", views.new_recipe, name="new"),
    path("title/<int:title_id>/versions/import/", views.import_recipe, name="import"),
    path("delivery/<int:delivery_id>/recipe/", views.from_plan, name="from-plan"),
    path("recipe/<int:recipe_id>/", views.recipe, name="recipe"),
    path("recipe/<int:recipe_id>/file/", views.export_recipe, name="export"),
]
