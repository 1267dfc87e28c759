"""Foreign files: whatever comes from outside is read for the first time in a process of its own.

Readers of video, pictures, fonts and timelines are large libraries in C. A damaged or a hostile file
can make one crash, or take all memory. So the first reading happens in a *reader*: a process that
is limited in memory, processor time and open files. Its crash is a sentence for the person who
brought the file in; the application goes on. Only facts, checked documents and bytes come back,
as JSON.

:mod:`.reading` is the one door: what it offers, and what each kind of file gives. :mod:`.readers`
starts the processes, and :mod:`.process` is what runs in them.
"""
