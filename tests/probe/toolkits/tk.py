import tkinter

window = tkinter.Tk()
window.geometry("500x400")
tkinter.Label(window, text="Seeds\n" * 12).pack(expand=True)
window.mainloop()
