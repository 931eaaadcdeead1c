CREATE TABLE `alarms` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`job_id` text NOT NULL,
	`source` text NOT NULL,
	`level` text NOT NULL,
	`says` text NOT NULL,
	`at` integer NOT NULL,
	`out_at` integer,
	`taken_at` integer,
	`taken_by` text
);
--> statement-breakpoint
CREATE INDEX `alarm_time` ON `alarms` (`job_id`,`at`);--> statement-breakpoint
CREATE TABLE `boards` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`name` text NOT NULL,
	`body` text NOT NULL,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `pictures` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`type` text NOT NULL,
	`content` blob NOT NULL
);
--> statement-breakpoint
CREATE TABLE `shelves` (
	`source` text PRIMARY KEY NOT NULL,
	`until` integer NOT NULL,
	`why` text NOT NULL,
	`by` text NOT NULL
);
--> statement-breakpoint
ALTER TABLE `logbook` ADD `picture` integer REFERENCES pictures(id);--> statement-breakpoint
ALTER TABLE `logbook` ADD `hash` text;--> statement-breakpoint
ALTER TABLE `plans` ADD `current` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `takes` ADD `folder` text DEFAULT '' NOT NULL;