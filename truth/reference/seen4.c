/* Prints the folders GTK 4 searches for icons. */
#include <gtk/gtk.h>
#include <stdio.h>

int main(void)
{
    char **path = gtk_icon_theme_get_search_path(gtk_icon_theme_new());
    for (int i = 0; path[i]; i++)
        puts(path[i]);
    return 0;
}
