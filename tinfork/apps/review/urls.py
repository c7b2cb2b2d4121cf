"""URLs of reviews: for members, and for visitors with a link."""

from django.urls import path

from tinfork.apps.review import views, visitors

urlpatterns = [
    path("productions/<int:pk>/reviews", views.reviews, name="reviews"),
    path("productions/<int:pk>/reviews/new", views.review_new, name="review_new"),
    path("reviews/<int:pk>/withdraw", views.review_withdraw, name="review_withdraw"),
    path("shots/<int:pk>/remarks", views.remarks, name="remarks"),
    path("shots/<int:pk>/remarks/new", views.remark_new, name="remark_new"),
    path("remarks/<int:pk>/settle", views.remark_settle, name="remark_settle"),
    path("remarks/<int:pk>/picture", views.remark_picture, name="remark_picture"),
    path("shots/<int:pk>/decide", views.shot_decide, name="shot_decide"),
    path("shots/<int:pk>/compare", views.shot_compare, name="shot_compare"),
    path("comparisons/<int:pk>/", views.comparison, name="comparison"),
    path("comparisons/<int:pk>/film", views.comparison_film, name="comparison_film"),
    path("review/<str:token>/", visitors.review, name="review"),
    path("review/<str:token>/film", visitors.review_film, name="review_film"),
    path("review/<str:token>/remarks", visitors.review_remarks, name="review_remarks"),
    path("review/<str:token>/decide", visitors.review_decide, name="review_decide"),
]
