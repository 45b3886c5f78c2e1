"""Addresses of sign-off, review links and remarks."""

from django.urls import path

from . import remark_views, views

app_name = "signoff"
urlpatterns = [
    path("attempt/<int:attempt_id>/sign-off/", views.signoff, name="signoff"),
    path("attempt/<int:attempt_id>/sign/", views.sign, name="sign"),
    path("attempt/<int:attempt_id>/waive/", views.waive, name="waive"),
    path("waiver/<int:waiver_id>/take-back/", views.unwaive, name="unwaive"),
    path("attempt/<int:attempt_id>/links/make/", views.make_link, name="make-link"),
    path("link/<int:link_id>/end/", views.end_link, name="end-link"),
    path("review/<str:token>/", views.review, name="review"),
    path("attempt/<int:attempt_id>/remarks/", remark_views.listing, name="remarks"),
    path("attempt/<int:attempt_id>/remarks/say/", remark_views.say, name="say"),
    path("attempt/<int:attempt_id>/remarks.csv", remark_views.export, name="remarks-csv"),
    path("remark/<int:remark_id>/answer/", remark_views.answer, name="answer"),
    path("remark/<int:remark_id>/close/", remark_views.close, name="close"),
]
