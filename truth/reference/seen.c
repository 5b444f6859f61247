/* Says what GTK 3 and libXcursor find in the home of the environment.
 *
 *   seen icon THEME NAME     the file of the icon, or -
 *   seen theme NAME COLOUR   the value the theme's style sheet gives the colour, or -
 *   seen pointer SET SHAPE   "WIDTH HEIGHT SUM" of the picture at 24 px, or -
 *   seen path                the folders searched for icons
 */
#include <X11/Xcursor/Xcursor.h>
#include <gtk/gtk.h>
#include <stdio.h>
#include <string.h>

int main(int argc, char **argv)
{
    if (!strcmp(argv[1], "icon")) {
        GtkIconTheme *theme = gtk_icon_theme_new();
        gtk_icon_theme_set_custom_theme(theme, argv[2]);
        GtkIconInfo *info = gtk_icon_theme_lookup_icon(theme, argv[3], 48, 0);
        puts(info ? gtk_icon_info_get_filename(info) : "-");
    } else if (!strcmp(argv[1], "theme")) {
        char *sheet = gtk_css_provider_to_string(gtk_css_provider_get_named(argv[2], NULL));
        char want[256];
        snprintf(want, sizeof want, "@define-color %s ", argv[3]);
        char *at = strstr(sheet, want);
        if (at)
            *strchr(at, ';') = 0;
        puts(at ? at + strlen(want) : "-");
    } else if (!strcmp(argv[1], "pointer")) {
        XcursorImage *im = XcursorLibraryLoadImage(argv[3], argv[2], 24);
        unsigned long long sum = 0;
        for (unsigned n = 0; im && n < im->width * im->height; n++)
            sum += (unsigned long long)im->pixels[n] * (n + 1);
        if (im)
            printf("%u %u %llu\n", im->width, im->height, sum);
        else
            puts("-");
    } else {
        gchar **path;
        gint n;
        gtk_icon_theme_get_search_path(gtk_icon_theme_new(), &path, &n);
        for (int i = 0; i < n; i++)
            puts(path[i]);
    }
    return 0;
}
