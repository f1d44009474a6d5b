from django.urls import path

from shop.practice import views

urlpatterns = [
    path("practice/", views.ladder, name="practice"),
    path("practice/people", views.people, name="practice-people"),
    path("practice/start", views.start, name="practice-start"),
    path("practice/<int:run_id>", views.run, name="practice-run"),
    path("practice/<int:run_id>/sound/<int:number>.wav", views.sound, name="practice-sound"),
    path("practice/<int:run_id>/answer", views.answer, name="practice-answer"),
    path("practice/<int:run_id>/hint", views.round_hint, name="practice-round-hint"),
    path("jobs/<int:number>/practice/hint", views.hint, name="practice-hint"),
    path("jobs/<int:number>/practice/nut", views.nut, name="practice-nut"),
    path("jobs/<int:number>/practice/name", views.name_fault, name="practice-name"),
    path("jobs/<int:number>/practice/print", views.make_print, name="practice-print"),
    path("jobs/<int:number>/practice/finish", views.finish, name="practice-finish"),
]
