CREATE TABLE `programmes` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`station` text NOT NULL,
	`number` integer NOT NULL,
	`at` integer NOT NULL,
	`by` text NOT NULL,
	`text` text NOT NULL,
	`ran_at` integer
);
--> statement-breakpoint
CREATE INDEX `programme_station` ON `programmes` (`station`,`number`);--> statement-breakpoint
CREATE TABLE `stations` (
	`id` text PRIMARY KEY NOT NULL,
	`body` text NOT NULL
);
