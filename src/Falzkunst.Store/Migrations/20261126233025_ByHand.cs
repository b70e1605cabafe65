using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Falzkunst.Store.Migrations
{
    /// <inheritdoc />
    public partial class ByHand : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Grain",
                table: "SheetRow",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "Left",
                table: "SheetRow",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<Guid>(
                name: "LeftByRunId",
                table: "SheetRow",
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<double>(
                name: "Price",
                table: "SheetRow",
                type: "double precision",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "BestDocument",
                table: "Layouts",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<int[]>(
                name: "CutBefore",
                table: "Layouts",
                type: "integer[]",
                nullable: false,
                defaultValueSql: "'{}'");

            migrationBuilder.AddColumn<bool>(
                name: "KeepsPins",
                table: "Layouts",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<Guid>(
                name: "ParentId",
                table: "Layouts",
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "Undone",
                table: "Layouts",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "What",
                table: "Layouts",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateIndex(
                name: "IX_SheetRow_LeftByRunId",
                table: "SheetRow",
                column: "LeftByRunId",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Layouts_ParentId",
                table: "Layouts",
                column: "ParentId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_SheetRow_LeftByRunId",
                table: "SheetRow");

            migrationBuilder.DropIndex(
                name: "IX_Layouts_ParentId",
                table: "Layouts");

            migrationBuilder.DropColumn(
                name: "Grain",
                table: "SheetRow");

            migrationBuilder.DropColumn(
                name: "Left",
                table: "SheetRow");

            migrationBuilder.DropColumn(
                name: "LeftByRunId",
                table: "SheetRow");

            migrationBuilder.DropColumn(
                name: "Price",
                table: "SheetRow");

            migrationBuilder.DropColumn(
                name: "BestDocument",
                table: "Layouts");

            migrationBuilder.DropColumn(
                name: "CutBefore",
                table: "Layouts");

            migrationBuilder.DropColumn(
                name: "KeepsPins",
                table: "Layouts");

            migrationBuilder.DropColumn(
                name: "ParentId",
                table: "Layouts");

            migrationBuilder.DropColumn(
                name: "Undone",
                table: "Layouts");

            migrationBuilder.DropColumn(
                name: "What",
                table: "Layouts");
        }
    }
}
