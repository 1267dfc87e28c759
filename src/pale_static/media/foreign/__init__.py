"""Foreign files: every file from outside is first read in a process of its own.

Readers of video, pictures, fonts and timelines are large libraries in C. A damaged or a hostile file
can make one crash, or take all memory. So the first reading happens in a *reader*: a process that
is limited in memory, processor time and open files. If it crashes, the person who brought the file
in gets a sentence, and the application goes on. Only facts, checked documents and bytes come back,
as JSON.

:mod:`.reading` is the one door, with a function for each kind of file. :mod:`.readers`
starts the processes, and :mod:`.process` runs in them.
"""
