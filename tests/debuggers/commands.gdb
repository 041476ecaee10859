set width 0
set print frame-arguments none
run
info locals
courier step
courier step
courier step
courier step
courier step
courier step
courier step
courier step
courier step
courier step
courier step
courier step
courier step
courier step
courier step
courier step
courier step
