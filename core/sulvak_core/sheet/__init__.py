"""The sheet's callouts: the trade's notation read into requirements that can be measured."""
