from PyQt5.QtWidgets import QApplication, QLabel

application = QApplication([])
label = QLabel("Seeds\n" * 12)
label.resize(500, 400)
label.show()
application.exec_()
