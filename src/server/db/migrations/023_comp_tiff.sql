-- What the stack makes of frames of a run may be TIFF too.
alter table run
  drop constraint run_comp_check,
  add constraint run_comp_check check (comp in ('exr', 'png', 'tiff'));
