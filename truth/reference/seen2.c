/* Prints the folders GTK 2 searches for icons. */
#include <gtk/gtk.h>
#include <stdio.h>

int main(void)
{
    gchar **path;
    gint n;
    gtk_icon_theme_get_search_path(gtk_icon_theme_new(), &path, &n);
    for (int i = 0; i < n; i++)
        puts(path[i]);
    return 0;
}
