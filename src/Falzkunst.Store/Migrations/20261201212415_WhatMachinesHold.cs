using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Falzkunst.Store.Migrations
{
    /// <inheritdoc />
    public partial class WhatMachinesHold : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "Ready",
                table: "Runs");

            migrationBuilder.AddColumn<bool>(
                name: "TookSheet",
                table: "Runs",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<Guid>(
                name: "PaperId",
                table: "Runs",
                type: "uuid",
                nullable: false,
                defaultValue: new Guid("00000000-0000-0000-0000-000000000000"));

            migrationBuilder.AddColumn<string>(
                name: "Held",
                table: "Machines",
                type: "text",
                nullable: false,
                defaultValue: "");

            // What went on from a run lies on its paper, which was taken from the drawer when the first of them was done.
            migrationBuilder.Sql("""
                WITH RECURSIVE chain AS (
                    SELECT "Id", "Id" AS "Paper" FROM "Runs" WHERE "AfterId" IS NULL
                    UNION ALL SELECT r."Id", c."Paper" FROM "Runs" r JOIN chain c ON r."AfterId" = c."Id")
                UPDATE "Runs" r SET "PaperId" = c."Paper" FROM chain c WHERE c."Id" = r."Id";
                UPDATE "Runs" SET "TookSheet" = TRUE WHERE "State" = 2 AND NOT "IsTouchUp";
                """);

            migrationBuilder.CreateIndex(
                name: "IX_Runs_PaperId",
                table: "Runs",
                column: "PaperId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_Runs_PaperId",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "PaperId",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "Held",
                table: "Machines");

            migrationBuilder.RenameColumn(
                name: "TookSheet",
                table: "Runs",
                newName: "Ready");
        }
    }
}
