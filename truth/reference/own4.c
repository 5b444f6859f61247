/* Prints what a program shows that pins the platform's own style sheet: its
   accent as three numbers, whether it is dark, its icon theme and its font. */
#include <adwaita.h>
#include <stdio.h>

int main(void) {
	adw_init();
	GdkRGBA c = {0};
	gtk_style_context_lookup_color(gtk_widget_get_style_context(gtk_window_new()), "accent_bg_color", &c);
	char *icons, *font;
	g_object_get(gtk_settings_get_default(), "gtk-icon-theme-name", &icons, "gtk-font-name", &font, NULL);
	printf("#%02x%02x%02x\n%s\n%s\n%s\n", (int)(c.red * 255 + 0.5), (int)(c.green * 255 + 0.5), (int)(c.blue * 255 + 0.5),
		adw_style_manager_get_dark(adw_style_manager_get_default()) ? "dark" : "light", icons ? icons : "", font ? font : "");
	return 0;
}
