"""Addresses of the news."""

from django.urls import path

from . import views

app_name = "notices"
urlpatterns = [
    path("news/", views.news, name="news"),
    path("news/tell/", views.tell, name="tell"),
]
