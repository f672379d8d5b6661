/** Pages, made of templates. */
@NullMarked
package dev.brume.http.internal.page;

import org.jspecify.annotations.NullMarked;
