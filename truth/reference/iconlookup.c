/* Prints where GTK 3's own icon lookup ends.
 *
 *   iconlookup THEME BASE...   with lines "NAME SIZE SCALE" on standard input
 *
 * One path a line, "-" for none. Needs no display.
 */
#include <gtk/gtk.h>
#include <stdio.h>

int main(int argc, char **argv)
{
    GtkIconTheme *theme = gtk_icon_theme_new();
    gtk_icon_theme_set_search_path(theme, (const char **)argv + 2, argc - 2);
    gtk_icon_theme_set_custom_theme(theme, argv[1]);

    char name[512];
    int size, scale;
    while (scanf("%511s %d %d", name, &size, &scale) == 3) {
        GtkIconInfo *info = gtk_icon_theme_lookup_icon_for_scale(theme, name, size, scale, 0);
        const char *file = info ? gtk_icon_info_get_filename(info) : NULL;
        puts(file ? file : "-");
        g_clear_object(&info);
    }
    return 0;
}
