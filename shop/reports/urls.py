from django.urls import path

from shop.reports import views

urlpatterns = [
    path("jobs/<int:number>/record", views.record, name="record"),
    path("jobs/<int:number>/sheet", views.sheet, name="sheet"),
    path("jobs/<int:number>/sheet.pdf", views.sheet_pdf, name="sheet-pdf"),
    path("jobs/<int:number>/job.json", views.job_json, name="job-json"),
    path("jobs/<int:number>/readings.csv", views.readings_csv, name="readings-csv"),
    path("jobs/import", views.import_job, name="import-job"),
    path("formats/job.schema.json", views.job_schema, name="job-schema"),
]
