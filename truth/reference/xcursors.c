/* Prints every picture libXcursor reads from the files named.
 *
 *   FILE NOMINAL WIDTH HEIGHT XHOT YHOT DELAY SUM
 *
 * SUM adds up the pixels, each times its place, so that a swap shows.
 */
#include <X11/Xcursor/Xcursor.h>
#include <stdio.h>

int main(int argc, char **argv)
{
    for (int i = 1; i < argc; i++) {
        XcursorImages *all = XcursorFilenameLoadAllImages(argv[i]);
        if (!all) {
            printf("%s -\n", argv[i]);
            continue;
        }
        for (int k = 0; k < all->nimage; k++) {
            XcursorImage *im = all->images[k];
            unsigned long long sum = 0;
            for (unsigned n = 0; n < im->width * im->height; n++)
                sum += (unsigned long long)im->pixels[n] * (n + 1);
            printf("%s %u %u %u %u %u %u %llu\n", argv[i], im->size, im->width, im->height,
                   im->xhot, im->yhot, im->delay, sum);
        }
        XcursorImagesDestroy(all);
    }
    return 0;
}
