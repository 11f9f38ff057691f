// The sheets for the printer: their one button.
document.getElementById("print")?.addEventListener("click", () => window.print());
