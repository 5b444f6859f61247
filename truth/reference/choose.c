/* Prints where GTK 3's own icon lookup ends for lists of names, and which names GLib asks for kinds of
 * file and for programs.
 *
 *   choose lookup THEME BASE...   lines "SIZE SCALE NAME NAME..." on standard input
 *   choose kinds                  kinds of file on standard input
 *   choose fallbacks              names on standard input
 *   choose programs FILE...       desktop entries
 *
 * One answer a line: a path or "-", or names parted by blanks. Needs no display.
 */
#include <gtk/gtk.h>
#include <gio/gdesktopappinfo.h>
#include <stdio.h>
#include <string.h>

static void print_names(GIcon *icon)
{
    if (G_IS_THEMED_ICON(icon)) {
        const char *const *names = g_themed_icon_get_names(G_THEMED_ICON(icon));
        for (int i = 0; names[i]; i++)
            printf("%s%s", i ? " " : "", names[i]);
        puts("");
    } else if (G_IS_FILE_ICON(icon)) {
        char *path = g_file_get_path(g_file_icon_get_file(G_FILE_ICON(icon)));
        puts(path ? path : "-");
        g_free(path);
    } else {
        puts("-");
    }
}

int main(int argc, char **argv)
{
    char line[8192];
    if (argc > 1 && !strcmp(argv[1], "programs")) {
        for (int i = 2; i < argc; i++) {
            GDesktopAppInfo *info = g_desktop_app_info_new_from_filename(argv[i]);
            print_names(info ? g_app_info_get_icon(G_APP_INFO(info)) : NULL);
        }
        return 0;
    }
    GtkIconTheme *theme = NULL;
    if (!strcmp(argv[1], "lookup")) {
        theme = gtk_icon_theme_new();
        gtk_icon_theme_set_search_path(theme, (const char **)argv + 3, argc - 3);
        gtk_icon_theme_set_custom_theme(theme, argv[2]);
    }
    while (fgets(line, sizeof line, stdin)) {
        g_strchomp(line);
        if (!strcmp(argv[1], "kinds")) {
            print_names(g_content_type_get_icon(line));
        } else if (!strcmp(argv[1], "fallbacks")) {
            print_names(g_themed_icon_new_with_default_fallbacks(line));
        } else {
            char **words = g_strsplit(line, " ", -1);
            GtkIconInfo *info = gtk_icon_theme_choose_icon_for_scale(theme, (const char **)words + 2, atoi(words[0]), atoi(words[1]), 0);
            const char *file = info ? gtk_icon_info_get_filename(info) : NULL;
            puts(file ? file : "-");
            g_clear_object(&info);
            g_strfreev(words);
        }
    }
    return 0;
}
