"""Addresses of people: their account, their studios, invitations."""

from django.urls import path

from tinfork.apps.people.views import account, site, studio

urlpatterns = [
    path("healthy", site.healthy, name="healthy"),
    path("account/", account.account, name="account"),
    path("account/export", account.account_export, name="account_export"),
    path("account/delete", account.account_delete, name="account_delete"),
    path("people/<int:pk>/picture", account.portrait, name="portrait"),
    path("studios/new", studio.studio_new, name="studio_new"),
    path("studios/switch", studio.studio_switch, name="studio_switch"),
    path("studios/<int:pk>/", studio.people, name="people"),
    path("studios/<int:pk>/rename", studio.studio_rename, name="studio_rename"),
    path("studios/<int:pk>/leave", studio.studio_leave, name="studio_leave"),
    path("studios/<int:pk>/invitations", studio.invitation_new, name="invitation_new"),
    path("invitations/<int:pk>/withdraw", studio.invitation_withdraw, name="invitation_withdraw"),
    path("members/<int:pk>/role", studio.member_role, name="member_role"),
    path("members/<int:pk>/remove", studio.member_remove, name="member_remove"),
    path("members/<int:pk>/owns", studio.studio_hand_over, name="studio_hand_over"),
    path("join/<str:token>/", studio.join, name="join"),
]
