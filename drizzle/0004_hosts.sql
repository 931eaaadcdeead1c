CREATE TABLE `hosts` (
	`host` text PRIMARY KEY NOT NULL,
	`by` text NOT NULL,
	`at` integer NOT NULL
);
