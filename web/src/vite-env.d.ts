/// <reference types="vite/client" />

/** When this was built: answers kept by an earlier one are not read. */
declare const __BUILD__: string;
