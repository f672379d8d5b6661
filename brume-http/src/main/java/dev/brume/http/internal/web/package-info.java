/** How requests are read, checked, routed and answered. */
@NullMarked
package dev.brume.http.internal.web;

import org.jspecify.annotations.NullMarked;
