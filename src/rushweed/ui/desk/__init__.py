"""The one large canvas: view, rulers, marks, sheets and levels."""
