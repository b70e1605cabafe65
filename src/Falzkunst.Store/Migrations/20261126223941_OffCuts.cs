using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Falzkunst.Store.Migrations
{
    /// <inheritdoc />
    public partial class OffCuts : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
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

            migrationBuilder.CreateIndex(
                name: "IX_SheetRow_LeftByRunId",
                table: "SheetRow",
                column: "LeftByRunId",
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_SheetRow_LeftByRunId",
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
        }
    }
}
