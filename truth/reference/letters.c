/* Prints fontconfig's own orthographies: of each language a line, its name and the letters that
 * it needs, as ranges in hexadecimal. Sorted by name they are core/fontconf/letters.csv. */
#include <fontconfig/fontconfig.h>
#include <stdio.h>

static void range(long from, long to, int *some) {
	if (from < 0) return;
	printf("%s%lX", (*some)++ ? " " : "", from);
	if (to > from) printf("-%lX", to);
}

int main(void) {
	FcInit();
	FcStrList *all = FcStrListCreate(FcGetLangs());
	FcChar8 *name;
	while ((name = FcStrListNext(all))) {
		const FcCharSet *letters = FcLangGetCharSet(name);
		FcChar32 map[FC_CHARSET_MAP_SIZE], next;
		long from = -1, last = -2;
		int some = 0;
		printf("%s,", name);
		for (FcChar32 page = FcCharSetFirstPage(letters, map, &next); page != FC_CHARSET_DONE; page = FcCharSetNextPage(letters, map, &next))
			for (int i = 0; i < FC_CHARSET_MAP_SIZE * 32; i++)
				if (map[i / 32] >> i % 32 & 1) {
					long letter = page + i;
					if (letter != last + 1) {
						range(from, last, &some);
						from = letter;
					}
					last = letter;
				}
		range(from, last, &some);
		printf("\n");
	}
	return 0;
}
