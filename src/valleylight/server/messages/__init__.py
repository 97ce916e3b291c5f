"""What web process and renderer say to each other over their pipe: checked where it is made, typed where it is read.

Wishes and questions go to the renderer, events come from it. All are plain values: nothing in them reaches back.
"""
