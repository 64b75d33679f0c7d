"""Addresses of builds."""

from django.urls import path

from fellwind.builds import bench_views, views

app_name = "builds"
urlpatterns = [
    path("", views.build_list, name="list"),
    path("new/", views.start, name="start"),
    path("season/", views.season, name="season"),
    path("pencil/", views.read_back, name="read_back"),
    path("<int:number>/", views.detail, name="detail"),
    path("<int:number>/log/", views.log, name="log"),
    path("<int:number>/end/", views.end, name="end"),
    path("<int:number>/inquest/", views.inquest, name="inquest"),
    path("<int:number>/log/<int:pk>/correct/", views.correct, name="correct"),
    path("<int:number>/photos/", views.photos, name="photos"),
    path("<int:number>/photos/keep/", views.photo_keep, name="photo_keep"),
    path("photos/<int:pk>/", views.photo, name="photo"),
    path("photos/<int:pk>/small/", views.photo, {"ending": "-small"}, name="photo_small"),
    path("photos/<int:pk>/drop/", views.photo_drop, name="photo_drop"),
    path("<int:number>/keep/", views.keep, name="keep"),
    path("<int:number>/tick/", views.tick, name="tick"),
    path("<int:number>/next/", views.next_stage, name="next"),
    path("<int:number>/wait/", views.add_wait, name="wait"),
    path("<int:number>/wait/<int:pk>/end/", views.end_wait, name="end_wait"),
    path("<int:number>/waits/<int:pk>/move/", views.move_wait, name="move_wait"),
    path("<int:number>/slice/", bench_views.slice_off, name="slice"),
    path("<int:number>/take-over/", views.take_over, name="take_over"),
    path("<int:number>/lay/", bench_views.take_over, name="lay"),
    path("<int:number>/spoiled/", bench_views.spoiled, name="spoiled"),
    path("<int:number>/glue/", bench_views.glue, name="glue"),
    path("<int:number>/heat/", bench_views.heat, name="heat"),
    path("<int:number>/heat/<int:pk>/", bench_views.stayed, name="stayed"),
    path("<int:number>/finishing/<slug:what>/", bench_views.finish, name="finish"),
    path("<int:number>/measured/<str:what>/", bench_views.measured, name="measured"),
    path("<int:number>/prove/", views.prove, name="prove"),
    path("<int:number>/card.pdf", views.card, name="card"),
    path("<int:number>/<str:stage>/", views.stage, name="stage"),
]
