# What there is was built and laid out before: nothing of it is changed here.
%global __os_install_post %{nil}
%global _build_id_links none
%global debug_package %{nil}
%global _binary_payload @PAYLOAD@
%global use_source_date_epoch_as_buildtime 1
%global clamp_mtime_to_source_date_epoch 1
%global _buildhost ivelt

Name: ivelt
Version: @VERSION@
Release: 1
Summary: Dress your desktop, and see it before anything changes
License: MIT
AutoReqProv: no
Recommends: xdg-utils

%description
@DESCRIPTION@

%files
@FILES@
